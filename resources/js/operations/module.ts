import type { ComponentType } from 'react';
import type { BodyItem, ProjectState, StepItem, Trial } from '../api/types';
import type { DatumBy, ViewState } from '../state/view/store';
import type { Box, BoxUse } from '../tools/cropBox/box';
import type { Hit } from '../tools/events';
import type { RimGesture } from '../tools/rims/closing';
import type { Selection } from '../viewport/marks';

export type Values = Record<string, unknown>;

type Snapshot = ProjectState['snapshot'];

/** What was picked and drawn in the view while a form is open. */
export interface Gestures {
  picks: readonly Hit[];
  selection: readonly Selection[];
  /** ids of passes that must not move */
  locked: readonly string[];
  cropBox: Box | null;
  /** what a new datum is made of */
  datumBy: DatumBy;
  rims: RimGesture;
  /** whose holes are listed */
  bodies?: readonly BodyItem[];
}

/** What may be missing is asked of what would be sent. */
export type Asked = Omit<Gestures, 'locked' | 'cropBox'> & { data: ProjectState };

export interface FieldsProps {
  values: Values;
  set: (name: string, value: unknown) => void;
  /** as they would be sent */
  parameters: Values;
  /** the bodies that it works on */
  bodies: readonly BodyItem[];
  /** ids of what it works on, where they are said */
  on: string[] | null;
}

export interface ReportProps {
  trial: Trial;
  /** the form still says what was tried */
  isCurrent: boolean;
  values: Values;
  set: (name: string, value: unknown) => void;
}

/**
 * What the window knows of an operation beyond the catalogue: all of it may be left out. Without a module the form is drawn from the parameters alone, which is enough for an operation that
 * has no gesture of its own.
 */
export interface OperationModule {
  /** its name in the catalogue, and that of its folder */
  name: string;
  /** fields that no parameter draws by itself, under the others */
  Fields?: ComponentType<FieldsProps>;
  /** they stand above the others */
  fieldsFirst?: boolean;
  /** the same where a step is changed and run again */
  RerunFields?: ComponentType<{ values: Values; set: (name: string, value: unknown) => void }>;
  /** what a trial found, beside headline and notes */
  Report?: ComponentType<ReportProps>;
  /** the report says what the notes say */
  reportsNotes?: boolean;
  /** what a step of it found, in its details */
  Details?: ComponentType<{ step: StepItem }>;
  /** never tried: quick, or seen before it is applied; or tried by itself while its numbers are set, from the first or once it has been tried */
  trial?: 'never' | 'live' | 'followed';
  /** what is tried in place of what was set */
  toTry?: (parameters: Values) => Values;
  /** from what the fields say to what is sent: picks are filled in, what has no use is left out */
  toSend?: (sent: Values, gestures: Gestures & { values: Values }) => Values;
  /** the tool of the window that does its work: it is no tool of its own */
  within?: string;
  /** what was picked for a step, to go on with, where it is more than places, pairs and a selection */
  gestureOf?: (parameters: Values, snapshot: Snapshot) => Partial<ViewState>;
  /** what its fields begin with, where that is not what a recipe gets that says nothing */
  beginsWith?: (snapshot: Snapshot, brief: ProjectState['project']['brief']) => Values;
  /** what is missing before it can run, in words; null when nothing is */
  lacking?: (sent: Values, asked: Asked) => string | null;
  /** a parameter that is not shown as things are */
  hides?: (parameter: string, now: { values: Values; picks: number; selected: number; datumBy: string }) => boolean;
  /** what the names in its lists are names of; by its stage where it does not say */
  names?: (snapshot: Snapshot) => readonly { id: string; name: string; kind?: string }[];
  /** a name for what it makes */
  freeName?: (values: Values, now: { datumBy: DatumBy; snapshot: Snapshot }) => string;
  /** values of the form that are no parameters */
  own?: readonly string[];
  /** values that are empty again after it was applied */
  startsAgain?: readonly string[];
  /** picks and drawings stay after it was applied */
  keepsGesture?: boolean;
  /** what was drawn for the last step of it can be taken up again: the words on the button */
  drawsAgain?: string;
  /** what it works on stays as it is: it may be out of sight */
  leavesAlone?: boolean;
  /** what it makes lies over what it works on, which is hidden then */
  laysOver?: boolean;
  /** what the handles in the view do while its form is open */
  handles?: Exclude<BoxUse, 'size'>;
  /** what a press in the view means, where it is not as its parameters say */
  presses?: (datumBy: DatumBy, stated: string | null) => string | null;
  /** a step of it answers in which unit a file is */
  answersUnit?: boolean;
  /** what was measured stays drawn while its form is open */
  showsMeasured?: boolean;
  /** picks belong together by twos */
  picksInPairs?: boolean;
  /** the colour of a pick, where it has one of its own */
  pickColour?: (index: number) => string | null;
}

export const defineOperation = (module: OperationModule): OperationModule => module;
