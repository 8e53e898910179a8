/**
 * What a worker has beyond the dom library: synchronous access to files of the private file system (W3C File
 * System).
 */
interface FileSystemSyncAccessHandle {
  write(bytes: BufferSource, options?: { at: number }): number;
  read(bytes: BufferSource, options?: { at: number }): number;
  getSize(): number;
  flush(): void;
  close(): void;
}
interface FileSystemFileHandle {
  createSyncAccessHandle(): Promise<FileSystemSyncAccessHandle>;
}
