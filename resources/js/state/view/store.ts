import { createStore } from 'zustand/vanilla';
import type { BodyItem, DatumItem, FramePreview, PassItem } from '../../api/types';
import type { Hit } from '../../tools/events';
import type { Box } from '../../tools/cropBox/box';
import { NO_RIM_GESTURE, type RimGesture } from '../../tools/rims/closing';
import type { OutlineShape } from '../../tools/outline/outlineTool';
import type { ColourMode, Thin } from '../../viewport/sceneItem';
import type { Selection, SelectMode } from '../../viewport/marks';

/** How a datum is said: by clicks, strokes, other datums, numbers, or the symmetry of a shape. */
export type DatumBy = 'click' | 'brush' | 'datums' | 'typed' | 'shape';

export type StageName = 'gather' | 'register' | 'fuse' | 'mend' | 'lighten' | 'orient' | 'deliver';

export interface DatumPreview {
  datum: DatumItem;
  faces: number[];
  whole: boolean;
  /** how far the middle of each face lies outside the fitted shape, mm */
  outside: number[];
  bodyId: string;
  /** its direction has been turned round */
  isTurned?: boolean;
}

export type SelectTool = OutlineShape | 'spread' | 'piece';

/** Tools that take the left button to draw; the others are clicks. */
export const isDrawn = (tool: SelectTool | null): tool is OutlineShape => tool !== null && tool !== 'spread' && tool !== 'piece';

/** What is on the screen; data only. What the project holds lives on the server. */
export interface ViewState {
  stage: StageName;
  openOperation: string | null;
  hidden: Record<string, boolean>;
  /** rows of the tray that are marked, to be dealt with together */
  chosen: readonly string[];
  /** passes whose cut-away points are shown, dimmed */
  removedShown: Record<string, boolean>;
  /** passes are coloured by the map of this name that the last report made */
  map: string | null;
  /** one point of each pass in this number was loaded; 1 for all of them */
  standIn: number;
  /** names of groups in the tray that are folded */
  folded: Record<string, boolean>;
  /** below 1 when there are more points than are drawn */
  shareDrawn: number;
  picks: readonly Hit[];
  rims: RimGesture;
  /** what was clicked on the part while no tool is open, and whether it is to join what was clicked before */
  clicked: { hit: Hit; more: boolean } | null;
  /** kinds of the shapes that lie over the bodies in the view */
  shapeKinds: readonly string[];
  /** what the form of an operation begins with when a step is done again */
  prefill: { operation: string; values: Record<string, unknown> } | null;
  selection: readonly Selection[];
  /** how many of the last outline's lie behind others */
  behind: number;
  through: boolean;
  selectTool: SelectTool | null;
  selectMode: SelectMode;
  brush: { size: number; unit: 'px' | 'mm' };
  spread: { angle: number; withinMm: number | null };
  /** the box while cropping; null before the tool has made one */
  cropBox: Box | null;
  /** where a handle was dragged to, when the box stands for what is moved */
  boxDragged: Box | null;
  /** what lies outside of this box is hidden, and how many points and faces that is, by item */
  hiddenOutside: { box: Box; counts: Record<string, number> } | null;
  /** what a new datum is made of: a click on the part, brushed surface, or other datums */
  datumBy: DatumBy;
  datumPreview: DatumPreview | null;
  /** figures read from the colours of a map */
  probes: readonly { itemId: string; pointMm: [number, number, number]; words: string }[];
  /** the view is cut open: what lies the way the normal points is not shown */
  cut: { point: [number, number, number]; normal: [number, number, number] } | null;
  /** the line and the value of what is about to be measured */
  dimension: { line: [number, number, number][]; words: string } | null;
  /** what was measured is not drawn */
  dimensionsHidden: boolean;
  /** where picked pairs or handles would bring what moves: it stands there, or a pale copy of it */
  movePreview: { itemIds: string[]; transform: number[]; asCopy?: boolean } | null;
  /** shown beside all others while pairs are picked on it and on them */
  aside: readonly string[] | null;
  /** while places are picked on two partners nothing else is shown */
  only: readonly string[] | null;
  /** where one more pick would help most */
  pickHint: { itemId: string; pointMm: [number, number, number] } | null;
  /** whole: everything would stand in it, not only some bodies */
  framePreview: (FramePreview & { whole: boolean }) | null;
  openStep: number | null;
  /** the pass or body whose facts are shown */
  openItem: string | null;
  /** the project as a step found or left it, shown in place of how it is */
  state: { passes: PassItem[]; bodies: BodyItem[]; touched: readonly string[] } | null;
  /** the bodies are shown at this count of faces of all, from the collapses that were kept */
  level: { faces: number; isShaded: boolean } | null;
  /** mm that the last colour of that stands for; null where it is not coloured */
  levelRange: number | null;
  /** a trial that is done is shown in place of what it would change */
  showTrial: boolean;
  /** rebuilt surface that is left out of the view */
  thin: Thin;
  /** visible bodies stand in a row, to be compared */
  sideBySide: boolean;
  colours: ColourMode;
  parallel: boolean;
  /** what lies over the window: the command box or the sheet of shortcuts */
  overlay: 'find' | 'keys' | null;
}

export const initialView: ViewState = {
  stage: 'gather',
  openOperation: null,
  hidden: {},
  chosen: [],
  removedShown: {},
  map: null,
  standIn: 1,
  folded: {},
  shareDrawn: 1,
  picks: [],
  rims: NO_RIM_GESTURE,
  clicked: null,
  shapeKinds: [],
  prefill: null,
  selection: [],
  behind: 0,
  through: false,
  selectTool: null,
  selectMode: 'replace',
  brush: { size: 24, unit: 'px' },
  spread: { angle: 12, withinMm: null },
  cropBox: null,
  boxDragged: null,
  hiddenOutside: null,
  datumBy: 'click',
  datumPreview: null,
  cut: null,
  probes: [],
  dimension: null,
  dimensionsHidden: false,
  movePreview: null,
  aside: null,
  only: null,
  pickHint: null,
  framePreview: null,
  openStep: null,
  openItem: null,
  state: null,
  level: null,
  levelRange: null,
  showTrial: true,
  thin: { share: 0, itemIds: [] },
  sideBySide: false,
  colours: 'evidence',
  parallel: false,
  overlay: null,
};

/** The colourings of bodies, in the order of the key C. */
export const COLOURS: { mode: ColourMode; label: string }[] = [
  { mode: 'evidence', label: 'measured and filled' },
  { mode: 'support', label: 'by support' },
  { mode: 'noise', label: 'by noise' },
  { mode: 'plain', label: 'plain' },
  { mode: 'own', label: 'a colour for each body' },
];

export type ViewStore = ReturnType<typeof createViewStore>;

export const createViewStore = () => createStore<ViewState>(() => initialView);

const gestureState = { picks: [], rims: NO_RIM_GESTURE, clicked: null, selection: [], behind: 0, selectTool: null, cropBox: null, boxDragged: null, datumPreview: null, cut: null, dimension: null, movePreview: null, aside: null, only: null, pickHint: null, framePreview: null, sideBySide: false } as const;

export const commands = (store: ViewStore) => ({
  goTo: (stage: StageName) => store.setState({ stage, openOperation: null, openStep: null, openItem: null, ...gestureState }),
  openOperation: (name: string | null, stage?: StageName) => store.setState({ openOperation: name, openStep: null, openItem: null, prefill: null, datumBy: 'click', ...(stage ? { stage } : {}), ...gestureState }),
  /** Opens an operation with what a step of it was told, and with what was picked for it. */
  reopen: (operation: string, stage: StageName, values: Record<string, unknown>, picked: Partial<ViewState> = {}) => store.setState({ openOperation: operation, openStep: null, openItem: null, stage, ...gestureState, prefill: { operation, values }, ...picked }),
  toggle: (id: string) => store.setState((s) => ({ hidden: { ...s.hidden, [id]: !s.hidden[id] } })),
  showOnly: (ids: readonly string[], all: readonly string[]) => store.setState({ hidden: Object.fromEntries(all.map((id) => [id, !ids.includes(id)])) }),
  setHidden: (hidden: Record<string, boolean>) => store.setState((s) => ({ hidden: { ...s.hidden, ...hidden } })),
  nextColours: () => store.setState((s) => ({ colours: COLOURS[(COLOURS.findIndex((c) => c.mode === s.colours) + 1) % COLOURS.length]?.mode ?? 'evidence' })),
  clearGesture: () => store.setState({ ...gestureState }),
  /** What was picked goes; what is shown aside to be picked on stays there. */
  dropPicks: () => store.setState((s) => ({ ...gestureState, aside: s.aside, only: s.only })),
});

export type ViewCommands = ReturnType<typeof commands>;
