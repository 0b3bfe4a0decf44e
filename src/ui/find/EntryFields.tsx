import Box from '@mui/material/Box';
import type { EntryDetails } from '../../server/shapes';
import { offset } from '../shared/format';

/** The recipe's fields for this entry, with their bytes. */
export function EntryFields({ entry }: { readonly entry: EntryDetails }) {
  return (
    <Box
      component="table"
      className="mono"
      sx={{
        width: '100%',
        borderSpacing: 0,
        '& td': {
          py: 0.3,
          pr: 1,
          verticalAlign: 'top',
          borderBottom: '1px solid var(--line)',
          overflowWrap: 'anywhere',
        },
      }}
    >
      <tbody>
        {entry.fields.map((field) => (
          <tr key={field.field}>
            <td>{field.field}</td>
            <td>
              {field.value}
              {field.formula !== null && <div className="dim">= {field.formula}</div>}
            </td>
            <td className="dim" title={field.unlocked ? 'in the unlocked index' : 'in the file'}>
              {offset(field.at)}
            </td>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
