/** A column of a DataTable. */
export interface Column {
  key: string;
  label: string;
  /** Figures, to the right. */
  num?: boolean;
  /** What names the row. */
  heads?: boolean;
  sortable?: boolean;
  /** Said to a screen reader alone, where the cells speak for themselves. */
  hidesLabel?: boolean;
  class?: string;
}
