'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { TestRulesAnswer } from '../../server/shapes';
import { type BodyOf, call } from '../shared/api';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

type Rule = TestRulesAnswer['rules'][number]['rule'];
type RuleName = Rule['rule'];

/** What is typed next to each rule; none needs nothing. */
const RULES: Readonly<Record<RuleName, { readonly title: string; readonly value?: string }>> = {
  packing: { title: 'Packings of pictures', value: 'such as bc1, bc3' },
  'powers-of-two': { title: 'Sizes are powers of two' },
  side: { title: 'Most pixels along a side', value: 'such as 4096' },
  mips: { title: 'Mips', value: 'all or none' },
  rate: { title: 'Samples a second', value: 'such as 22050, 44100' },
  channels: { title: 'Most channels of a sound', value: 'such as 1' },
  bytes: { title: 'Most bytes of an entry', value: 'such as 4194304' },
  'path-length': { title: 'Most characters of a path', value: 'such as 127' },
  name: { title: 'Most characters of a name, ASCII alone', value: 'such as 31' },
};

const words = (text: string) => text.split(/[\s,]+/).filter((word) => word !== '');

type NewRule = NonNullable<BodyOf<'PUT games/{game}/test-rules'>['rules']>[number];

/** As it was typed: the server says what is missing. */
function ruleOf(rule: RuleName, paths: string, value: string): NewRule {
  const number = Number(value.trim());
  const base = { paths: paths.trim() === '' ? '*' : paths.trim() };
  switch (rule) {
    case 'packing':
      return { ...base, rule, one: words(value) };
    case 'rate':
      return { ...base, rule, one: words(value).map(Number) };
    case 'mips':
      return { ...base, rule, are: value.trim() as 'all' | 'none' };
    case 'powers-of-two':
      return { ...base, rule };
    default:
      return { ...base, rule, most: number };
  }
}

/** The rules that builds of a game without a stand-in are checked by. */
export function RulesDialog({ gameId, onClose }: { gameId: number; onClose: () => void }) {
  const { data } = useQuery({
    queryKey: ['game', gameId, 'test-rules'],
    queryFn: () => call('GET games/{game}/test-rules', { game: gameId }),
  });
  const [rule, setRule] = useState<RuleName>('packing');
  const [paths, setPaths] = useState('*');
  const [value, setValue] = useState('');
  const change = useGameMutation(
    gameId,
    (rules: readonly NewRule[]) => call('PUT games/{game}/test-rules', { game: gameId, body: { rules } }),
    { showsFault: true },
  );
  const rules = data?.rules ?? [];
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Rules of this game</DialogTitle>
      <DialogContent>
        <Box className="dim" sx={{ mb: 1.5 }}>
          What the game is known to refuse. Builds are checked against these rules, and the game’s profile includes
          them.
        </Box>
        {rules.length === 0 && <Box sx={{ mb: 1.5 }}>There are none yet: only the load order is checked.</Box>}
        {rules.map(({ rule: one, title }, i) => (
          <Box
            key={JSON.stringify(one)}
            sx={{ display: 'flex', gap: 1, py: 0.5, borderBottom: '1px solid var(--line)', alignItems: 'center' }}
          >
            <Box sx={{ flex: 1 }}>
              {title} {one.paths !== '*' && <span className="mono dim">{one.paths}</span>}
            </Box>
            <Button
              variant="text"
              aria-label={`Remove: ${title}`}
              onClick={() => change.mutate(rules.filter((_, at) => at !== i).map((kept) => kept.rule))}
            >
              Remove
            </Button>
          </Box>
        ))}
        <Box
          component="form"
          onSubmit={(event) => {
            event.preventDefault();
            change.mutate([...rules.map((kept) => kept.rule), ruleOf(rule, paths, value)], {
              onSuccess: () => setValue(''),
            });
          }}
          sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr auto', gap: 1, mt: 2, alignItems: 'start' }}
        >
          <TextField
            select
            size="small"
            label="Rule"
            value={rule}
            onChange={(event) => setRule(event.target.value as RuleName)}
          >
            {Object.entries(RULES).map(([name, { title }]) => (
              <MenuItem key={name} value={name}>
                {title}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            size="small"
            label="Value"
            value={RULES[rule].value === undefined ? '' : value}
            disabled={RULES[rule].value === undefined}
            placeholder={RULES[rule].value ?? ''}
            onChange={(event) => setValue(event.target.value)}
          />
          <TextField size="small" label="Paths" value={paths} onChange={(event) => setPaths(event.target.value)} />
          <Button type="submit" disabled={change.isPending}>
            Add
          </Button>
        </Box>
        {change.error !== null && (
          <Box sx={{ mt: 1 }}>
            <FaultNote>{change.error.message}</FaultNote>
          </Box>
        )}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button variant="contained" onClick={onClose}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}
