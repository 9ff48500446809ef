import { api } from './client';

/** What artefacts hold, by blob: it never changes. */
const held = new Map<string, unknown>();

/** What an artefact holds, as the core wrote it. */
export async function heldBy<T>(projectId: string, blob: string): Promise<T> {
  if (!held.has(blob)) held.set(blob, JSON.parse(new TextDecoder().decode(await api.blob(projectId, blob))));
  return held.get(blob) as T;
}
