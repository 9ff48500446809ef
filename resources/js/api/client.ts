import type { Account, Estimate, FrameCheckRow, FramePreview, ItemFacts, LengthPreview, OperationInfo, PairPreview, ProjectCard, ProjectState, Scanner, SolvedFixture, StepStates, TextLook } from './types';

/** A request the server refused, with its words for the person. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

const token = () => document.querySelector<HTMLMetaElement>('meta[name=csrf-token]')?.content ?? '';

export function csrfHeaders(): Record<string, string> {
  return { 'X-CSRF-TOKEN': token(), Accept: 'application/json' };
}

async function request<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      headers: { ...csrfHeaders(), ...(body === undefined ? {} : { 'Content-Type': 'application/json' }) },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    throw new ApiError('The server does not answer. Your work is safe there; this page tries again by itself.', 0);
  }
  if (response.status === 401 || response.status === 419) {
    window.location.assign('/sign-in');
    throw new ApiError('You were signed out; sign in again.', response.status);
  }
  if (!response.ok) {
    const problem = (await response.json().catch(() => ({}))) as { message?: string };
    throw new ApiError(problem.message || 'The server could not do that; try again.', response.status);
  }
  return (response.status === 204 ? undefined : await response.json()) as T;
}

async function bytes(path: string): Promise<ArrayBuffer> {
  const response = await fetch(path);
  if (!response.ok) throw new ApiError('A part of the picture could not be loaded; reload the page.', response.status);
  return response.arrayBuffer();
}

/** How long the same request counts as the same wish, ms: a double click takes less, a second thought longer. */
const SAME_WISH = 500;

const wishes = new Map<string, Promise<{ id: number }>>();

/** Asks for a step once: a click that is doubled, or sent again, is one step. */
function askOnce(path: string, body: Record<string, unknown>): Promise<{ id: number }> {
  const wish = path + JSON.stringify(body);
  const known = wishes.get(wish);
  if (known) return known;
  const asked = request<{ id: number }>('POST', path, { ...body, key: uuid() });
  wishes.set(wish, asked);
  const forget = (): void => void setTimeout(() => wishes.delete(wish), SAME_WISH);
  asked.then(forget, () => wishes.delete(wish));
  return asked;
}

/** A random UUID; crypto.randomUUID is there only on secure origins. */
function uuid(): string {
  const hex = [...crypto.getRandomValues(new Uint8Array(16))].map((byte, k) => (k === 6 ? (byte & 15) | 64 : k === 8 ? (byte & 63) | 128 : byte).toString(16).padStart(2, '0')).join('');
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-${hex.slice(12, 16)}-${hex.slice(16, 20)}-${hex.slice(20)}`;
}

export const api = {
  account: () => request<Account>('GET', '/account'),
  endSession: (name: string) => request<Pick<Account, 'sessions'>>('DELETE', `/account/sessions/${name}`),
  operations: () => request<OperationInfo[]>('GET', '/operations'),
  projects: () => request<ProjectCard[]>('GET', '/projects'),
  createProject: (data: { name: string; brief: Record<string, unknown> }) => request<{ id: string }>('POST', '/projects', data),
  deleteProject: (id: string) => request<void>('DELETE', `/projects/${id}`),
  project: (id: string) => request<ProjectState>('GET', `/projects/${id}`),
  updateProject: (id: string, data: Record<string, unknown>) => request<void>('PATCH', `/projects/${id}`, data),
  confirmScale: (id: string, confirmed: boolean) => request<void>('POST', `/projects/${id}/scale-confirmed`, { confirmed }),
  addStep: (id: string, operation: string, parameters: Record<string, unknown>, on: string[] | null = null) => askOnce(`/projects/${id}/steps`, { operation, parameters, ...(on ? { on } : {}) }),
  tryStep: (id: string, operation: string, parameters: Record<string, unknown>, on: string[] | null = null) =>
    request<{ id: number }>('POST', `/projects/${id}/steps`, { operation, parameters, trial: true, ...(on ? { on } : {}) }),
  states: (id: string, step: number) => request<StepStates>('GET', `/projects/${id}/steps/${step}/states`),
  facts: (id: string, item: string) => request<ItemFacts>('GET', `/projects/${id}/items/${item}/facts`),
  keepTrial: (id: string, step: number) => request<void>('POST', `/projects/${id}/steps/${step}/keep`),
  forgetTrials: (id: string) => request<void>('DELETE', `/projects/${id}/trials`),
  stopStep: (id: string, step: number) => request<void>('POST', `/projects/${id}/steps/${step}/stop`),
  again: (id: string, step: number) => request<void>('POST', `/projects/${id}/steps/${step}/again`),
  rerun: (id: string, step: number, parameters: Record<string, unknown>) => request<void>('POST', `/projects/${id}/steps/${step}/rerun`, { parameters }),
  undo: (id: string, to?: number) => request<void>('POST', `/projects/${id}/undo`, to === undefined ? {} : { to }),
  addMember: (id: string, email: string) => request<void>('POST', `/projects/${id}/members`, { email }),
  removeMember: (id: string, member: number) => request<void>('DELETE', `/projects/${id}/members/${member}`),
  redo: (id: string) => request<void>('POST', `/projects/${id}/redo`),
  estimate: (id: string, operation: string, parameters: Record<string, unknown>, on: string[] | null) => request<Estimate>('POST', `/projects/${id}/estimate`, { operation, parameters, ...(on ? { on } : {}) }),
  datumPreview: (id: string, data: { body: string; kind: string; hold?: unknown } & ({ face: number; angle: number } | { ranges: [number, number][] })) =>
    request<{ datum: import('./types').DatumItem; faces: number[]; whole: boolean; outside: number[] }>('POST', `/projects/${id}/datum-preview`, data),
  datumKind: (id: string, data: { body: string; face: number; angle: number }) => request<{ kind: string; rms: Record<string, number> }>('POST', `/projects/${id}/datum-kind`, data),
  lengthPreview: (id: string, lengths: unknown[]) => request<LengthPreview>('POST', `/projects/${id}/length-preview`, { lengths }),
  pairPreview: (id: string, pairs: unknown[], moving: string) => request<PairPreview>('POST', `/projects/${id}/pair-preview`, { pairs, moving }),
  fixtures: () => request<SolvedFixture[]>('GET', '/fixtures'),
  framePreview: (id: string, data: Record<string, unknown>) =>
    request<FramePreview>('POST', `/projects/${id}/frame-preview`, data),
  frameCheck: (id: string) => request<FrameCheckRow[]>('GET', `/projects/${id}/frame-check`),
  columns: (id: string, upload: string) => request<TextLook | undefined>('GET', `/projects/${id}/uploads/${upload}/columns`),
  startCapture: (id: string, scanner: Partial<Scanner> | null) => request<{ id: string; token: string | null; address: string }>('POST', `/projects/${id}/captures`, { scanner }),
  tellCapture: (id: string, capture: string, what: 'pause' | 'go' | 'look' | 'spray' | 'finish' | 'drop', direction?: readonly number[]) =>
    request<unknown>('POST', `/projects/${id}/captures/${capture}/command`, { do: what, ...(direction ? { direction } : {}) }),
  coverage: (id: string, capture: string) => bytes(`/api/projects/${id}/captures/${capture}/coverage`),
  /** A blob, or every so manyth point of a cloud's. */
  blob: (project: string, hash: string, every = 1) => bytes(`/api/projects/${project}/blobs/${hash}${every > 1 ? `/every/${every}` : ''}`),
};
