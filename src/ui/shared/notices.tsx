'use client';
import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import Snackbar from '@mui/material/Snackbar';
import { createContext, useCallback, useContext, useState, type ReactNode } from 'react';

interface Notice {
  readonly text: string;
  readonly tone: 'success' | 'error' | 'info';
  readonly action?: { readonly label: string; readonly run: () => void };
}

const Context = createContext<(notice: Notice) => void>(() => {});

/** Short news at the foot of the page; errors stay until they are closed. */
export function Notices({ children }: { children: ReactNode }) {
  const [notice, setNotice] = useState<Notice>();
  const say = useCallback((next: Notice) => setNotice(next), []);
  const close = () => setNotice(undefined);
  return (
    <Context.Provider value={say}>
      {children}
      <Snackbar
        open={notice !== undefined}
        onClose={(_, reason) => reason === 'timeout' && close()}
        autoHideDuration={notice?.tone === 'error' ? null : 6000}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'center' }}
      >
        <Alert
          severity={notice?.tone ?? 'info'}
          variant="outlined"
          onClose={close}
          sx={{ background: 'var(--sheet)', color: 'var(--ink)', maxWidth: 720 }}
          action={
            notice?.action === undefined ? undefined : (
              <Button
                variant="text"
                onClick={() => {
                  notice.action?.run();
                  close();
                }}
              >
                {notice.action.label}
              </Button>
            )
          }
        >
          {notice?.text}
        </Alert>
      </Snackbar>
    </Context.Provider>
  );
}

export function useNotice(): (notice: Notice) => void {
  return useContext(Context);
}
