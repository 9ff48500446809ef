import { createStore } from 'zustand/vanilla';
import type { DatumItem } from '../../api/types';
import type { Hit } from '../../tools/events';
import type { ColourMode } from '../../viewport/sceneItem';
import type { Selection } from '../../viewport/Viewport';

export type StageName = 'gather' | 'register' | 'fuse' | 'mend' | 'lighten' | 'orient' | 'deliver';

export interface DatumPreview {
  datum: DatumItem;
  faces: number[];
  whole: boolean;
  bodyId: string;
}

/** What is on the screen; data only. What the project holds lives on the server. */
export interface ViewState {
  stage: StageName;
  openOperation: string | null;
  hidden: Record<string, boolean>;
  picks: readonly Hit[];
  selection: readonly Selection[];
  through: boolean;
  drawing: boolean;
  datumPreview: DatumPreview | null;
  framePreview: { transform: number[]; locks: Record<string, string | null> } | null;
  openStep: number | null;
  colours: ColourMode;
  parallel: boolean;
  /** what lies over the window: the command box or the sheet of shortcuts */
  overlay: 'find' | 'keys' | null;
}

export const initialView: ViewState = {
  stage: 'gather', openOperation: null, hidden: {}, picks: [], selection: [], through: false, drawing: false, datumPreview: null, framePreview: null, openStep: null, colours: 'evidence', parallel: false, overlay: null,
};

/** The colourings of bodies, in the order of the key C. */
export const COLOURS: { mode: ColourMode; label: string }[] = [
  { mode: 'evidence', label: 'measured and filled' },
  { mode: 'support', label: 'by support' },
  { mode: 'plain', label: 'plain' },
];

export type ViewStore = ReturnType<typeof createViewStore>;

export const createViewStore = () => createStore<ViewState>(() => initialView);

const gestureState = { picks: [], selection: [], drawing: false, datumPreview: null, framePreview: null } as const;

export const commands = (store: ViewStore) => ({
  goTo: (stage: StageName) => store.setState({ stage, openOperation: null, openStep: null, ...gestureState }),
  openOperation: (name: string | null, stage?: StageName) => store.setState({ openOperation: name, openStep: null, ...(stage ? { stage } : {}), ...gestureState }),
  toggle: (id: string) => store.setState((s) => ({ hidden: { ...s.hidden, [id]: !s.hidden[id] } })),
  showOnly: (ids: readonly string[], all: readonly string[]) => store.setState({ hidden: Object.fromEntries(all.map((id) => [id, !ids.includes(id)])) }),
  setHidden: (hidden: Record<string, boolean>) => store.setState((s) => ({ hidden: { ...s.hidden, ...hidden } })),
  nextColours: () => store.setState((s) => ({ colours: COLOURS[(COLOURS.findIndex((c) => c.mode === s.colours) + 1) % COLOURS.length]?.mode ?? 'evidence' })),
  clearGesture: () => store.setState({ ...gestureState }),
});

export type ViewCommands = ReturnType<typeof commands>;
