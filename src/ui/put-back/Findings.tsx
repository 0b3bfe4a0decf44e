'use client';
import Box from '@mui/material/Box';
import type { JudgeReport } from '../../server/shapes';
import { FaultNote } from '../shared/states';
import { Line } from './Line';

export function Findings({ report }: { report: JudgeReport }) {
  if (report.findings.length === 0) {
    if (report.by !== 'rules') return null;
    return report.rules === 0 ? (
      <Line ok={false} text="No rules are set for this game" note="" />
    ) : (
      <Line ok text="No rule is broken" note="" />
    );
  }
  return report.findings.map((finding) => (
    <Box key={finding.code + finding.file + finding.offset + finding.found} sx={{ my: 1 }}>
      <FaultNote tone={finding.severity === 'stop' ? 'brick' : 'brass'}>
        <b>{finding.rule}</b> Found {finding.found}, in {finding.file}
        {finding.entry === undefined ? '' : `, ${finding.entry}`}, byte 0x{finding.offset.toString(16).toUpperCase()} (
        {finding.code}).
      </FaultNote>
    </Box>
  ));
}
