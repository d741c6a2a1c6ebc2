export interface Migration {
  name: string;
  /** Run in order inside one transaction. Forward only: going back is restoring the backup copy. */
  statements: readonly string[];
}
