import { bytesOf } from './base64';
import * as schema from './schema';
import { z } from './zod';
import type { Scanner } from './schema';

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

/** Asks the server, and takes its answer only in the shape that it should have; fields that this window does not know yet are left out. */
async function request<T>(answer: z.ZodType<T>, method: string, path: string, body?: unknown): Promise<T> {
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
  const parsed = answer.safeParse(response.status === 204 ? null : await response.json());
  if (parsed.success) return parsed.data;
  console.error(`${method} ${path}: ${z.prettifyError(parsed.error)}`);
  throw new ApiError('The server answered in a way that this page does not know. Reload it; if that does not help, tell whoever looks after this installation.', response.status);
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
  const asked = request(schema.stepAsked, 'POST', path, { ...body, key: uuid() });
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

const made = z.object({ id: z.string() });

/** Of an answer that nothing is read from. */
const anything = z.unknown();

export const api = {
  account: () => request(schema.account, 'GET', '/account'),
  setSettings: (settings: { receiverLinks: boolean }) => request(schema.settings, 'PATCH', '/account/settings', settings),
  endSession: (name: string) => request(schema.sessions, 'DELETE', `/account/sessions/${name}`),
  operations: () => request(z.array(schema.operationInfo), 'GET', '/operations'),
  projects: () => request(z.array(schema.projectCard), 'GET', '/projects'),
  createProject: (data: { name: string; brief: Record<string, unknown> }) => request(made, 'POST', '/projects', data),
  deleteProject: (id: string) => request(anything, 'DELETE', `/projects/${id}`),
  project: (id: string) => request(schema.projectState, 'GET', `/projects/${id}`),
  updateProject: (id: string, data: Record<string, unknown>) => request(anything, 'PATCH', `/projects/${id}`, data),
  addStep: (id: string, operation: string, parameters: Record<string, unknown>, on: string[] | null = null) => askOnce(`/projects/${id}/steps`, { operation, parameters, ...(on ? { on } : {}) }),
  tryStep: (id: string, operation: string, parameters: Record<string, unknown>, on: string[] | null = null) => request(schema.stepAsked, 'POST', `/projects/${id}/steps`, { operation, parameters, trial: true, ...(on ? { on } : {}) }),
  states: (id: string, step: number) => request(schema.stepStates, 'GET', `/projects/${id}/steps/${step}/states`),
  facts: (id: string, item: string) => request(schema.itemFacts, 'GET', `/projects/${id}/items/${item}/facts`),
  keepTrial: (id: string, step: number) => request(anything, 'POST', `/projects/${id}/steps/${step}/keep`),
  forgetTrials: (id: string) => request(anything, 'DELETE', `/projects/${id}/trials`),
  stopStep: (id: string, step: number) => request(anything, 'POST', `/projects/${id}/steps/${step}/stop`),
  again: (id: string, step: number, sent?: { parameters: Record<string, unknown>; on: string[] | null }) => request(anything, 'POST', `/projects/${id}/steps/${step}/again`, sent),
  rerun: (id: string, step: number, parameters: Record<string, unknown>) => request(anything, 'POST', `/projects/${id}/steps/${step}/rerun`, { parameters }),
  undo: (id: string, to?: number) => request(anything, 'POST', `/projects/${id}/undo`, to === undefined ? {} : { to }),
  addMember: (id: string, email: string) => request(anything, 'POST', `/projects/${id}/members`, { email }),
  removeMember: (id: string, member: number) => request(anything, 'DELETE', `/projects/${id}/members/${member}`),
  redo: (id: string) => request(anything, 'POST', `/projects/${id}/redo`),
  estimate: (id: string, operation: string, parameters: Record<string, unknown>, on: string[] | null) => request(schema.estimate, 'POST', `/projects/${id}/estimate`, { operation, parameters, ...(on ? { on } : {}) }),
  datumPreview: (id: string, data: { body: string; kind: string; hold?: unknown } & ({ face: number; angle: number } | { ranges: [number, number][] })) => request(schema.datumPreview, 'POST', `/projects/${id}/datum-preview`, data),
  datumKind: (id: string, data: { body: string; face: number; angle: number }) => request(schema.datumKindFound, 'POST', `/projects/${id}/datum-kind`, data),
  measurePreview: (id: string, of: unknown[], kind: string | null) => request(schema.measurePreview, 'POST', `/projects/${id}/measure-preview`, { of, kind }),
  lengthPreview: (id: string, lengths: unknown[]) => request(schema.lengthPreview, 'POST', `/projects/${id}/length-preview`, { lengths }),
  pairPreview: (id: string, pairs: unknown[], moving: string) => request(schema.pairPreview, 'POST', `/projects/${id}/pair-preview`, { pairs, moving }),
  fixtures: () => request(z.array(schema.solvedFixture), 'GET', '/fixtures'),
  framePreview: (id: string, data: Record<string, unknown>) => request(schema.framePreview, 'POST', `/projects/${id}/frame-preview`, data),
  frameCheck: (id: string) => request(z.array(schema.frameCheckRow), 'GET', `/projects/${id}/frame-check`),
  columns: (id: string, upload: string) => request(schema.textLook.nullable(), 'GET', `/projects/${id}/uploads/${upload}/columns`),
  startCapture: (id: string, scanner: Partial<Scanner> | null) => request(schema.captureBegun, 'POST', `/projects/${id}/captures`, { scanner }),
  tellCapture: (id: string, capture: string, what: 'pause' | 'go' | 'look' | 'spray' | 'finish' | 'drop', direction?: readonly number[]) => request(anything, 'POST', `/projects/${id}/captures/${capture}/command`, { do: what, ...(direction ? { direction } : {}) }),
  coverage: (id: string, capture: string) => bytes(`/api/projects/${id}/captures/${capture}/coverage`),
  links: (id: string) => request(schema.receiverLinks, 'GET', `/projects/${id}/links`),
  makeLink: (id: string, artefact: string, days: number) => request(schema.receiverLinkMade, 'POST', `/projects/${id}/links`, { artefact, days }),
  closeLink: (id: string, link: string) => request(schema.receiverLinks, 'DELETE', `/projects/${id}/links/${link}`),
  received: (token: string) => request(schema.received, 'GET', `/received/${token}`),
  receivedPart: (token: string, part: number) => bytes(`/api/received/${token}/parts/${part}`),
  /** Stores a still of a pass or body, a data URL of a PNG. */
  keepPicture: (project: string, hash: string, still: string) => {
    const picture = bytesOf(still.slice(still.indexOf(',') + 1));
    return fetch(pictureOf(project, hash), { method: 'PUT', headers: { ...csrfHeaders(), 'Content-Type': 'image/png' }, body: picture });
  },
  /** A blob, or of a cloud one point in `every`. */
  blob: (project: string, hash: string, every = 1) => bytes(`/api/projects/${project}/blobs/${hash}${every > 1 ? `/every/${every}` : ''}`),
};

/** Where a receiver takes a file of a delivery, or its report. */
export const receivedFile = (token: string, file: number): string => `/api/received/${token}/files/${file}`;
export const receivedReport = (token: string, format: 'pdf' | 'html' | 'zip'): string => `/api/received/${token}/report?format=${format}`;

/** Where the stored still of a pass or body is. */
export const pictureOf = (project: string, hash: string): string => `/api/projects/${project}/pictures/${hash}`;
