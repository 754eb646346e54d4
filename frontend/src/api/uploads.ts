import { here, dataOf } from "./client";

/** Sends a file to a new import; returns the import's id. */
export function handInFile(file: File): Promise<string> {
  return handInFiles([file]);
}

/** Sends several files to one new import; returns the import's id. */
export async function handInFiles(files: File[]): Promise<string> {
  const begun = await dataOf(here().POST("/imports"));
  for (const file of files) await sendFile(begun.id, file);
  return begun.id;
}

/** Sends a file to an import, its bytes as they are. */
export function sendFile(id: string, file: File) {
  return dataOf(
    here().PUT("/imports/{import_id}/files/{name}", {
      params: { path: { import_id: id, name: file.name } },
      body: file as unknown as string,
      bodySerializer: (body) => body as unknown as BodyInit,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );
}

/** Ends an import: nothing of it is left. */
export async function endImport(id: string): Promise<void> {
  await here().DELETE("/imports/{import_id}", { params: { path: { import_id: id } } });
}
