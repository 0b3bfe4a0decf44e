export { exportLabels, layLabelTable, listLabels, setLabels } from './label-service';
