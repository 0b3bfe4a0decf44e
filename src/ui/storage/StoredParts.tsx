import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import type { HomePart } from '../../server/shapes';
import { count, size } from '../shared/format';

/** The parts of the home, the largest first. */
export function StoredParts({ parts }: { parts: readonly HomePart[] }) {
  return (
    <Table size="small">
      <TableHead>
        <TableRow>
          <TableCell>What</TableCell>
          <TableCell align="right">Files</TableCell>
          <TableCell align="right">Size</TableCell>
          <TableCell align="right">Can be freed</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {parts.map(({ id, name, bytes, files, frees }) => (
          <TableRow key={id}>
            <TableCell>{name}</TableCell>
            <TableCell align="right">{files === 0 ? '' : count(files)}</TableCell>
            <TableCell align="right">{size(bytes)}</TableCell>
            <TableCell align="right">{frees === 0 ? '' : size(frees)}</TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}
