/** A mark as files carry it: in frames of the file. */
export interface FileMark {
  at: number;
  /** 0 for a point. */
  length: number;
  name: string;
}
