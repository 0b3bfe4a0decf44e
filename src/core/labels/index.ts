export {
  matchByNumber,
  matchByPath,
  MAX_LABEL,
  readLabels,
  speaksOfNumbers,
  writeLabels,
  type Labelled,
  type LabelRow,
  type Matched,
} from './label-table';
