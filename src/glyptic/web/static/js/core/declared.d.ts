/** Made by scripts/make_docs.py from glyptic.web.declared; a test fails where it is out of date. */

/** A key as the page binds it; see `web.keys`. */
export type Key = {
  name: string;
  presses: string[];
  held: boolean;
  repeats: boolean;
  free: boolean;
  where: string;
};

/** The size of a plot, in its own units. */
export type Box = {
  width: number;
  height: number;
};

/** What a number may be. */
export type Span = {
  low: number;
  high: number;
};

/** A brush as it starts: size in pixels, the others 0..1. */
export type BrushMeasures = {
  size: number;
  hardness: number;
  opacity: number;
  flow: number;
  side: number;
};

/** A brush for masks, and one for grey layers. */
export type BrushStart = {
  mask: BrushMeasures;
  grey: BrushMeasures;
};

/** How far Even blurs a painting. */
export type Evened = {
  share: number;
  least: number;
};

/** What the page knows of the brush. */
export type BrushDeclared = {
  start: BrushStart;
  largest: number;
  spacing: number;
  evened: Evened;
};

/** What the page knows of levels. */
export type LevelsDeclared = {
  gamma: Span;
};

/** Everything that is declared in the core and used by the page. */
export type Declared = {
  keys: Key[];
  brush: BrushDeclared;
  parts: Record<string, Record<string, any>>;
  curve: Box;
  maskCurve: Box;
  levels: LevelsDeclared;
  mostPoints: number;
  slowly: string[];
  deepest: number;
  transparent: boolean;
};

/** What a stroke could paint on. why: the reason there is nothing, or ''; off: whether it would not be seen; bare:
    'open' or 'closed' for a mask that shows everywhere or nowhere so far, or ''. */
export type Target = {
  name: string;
  grey: boolean;
  mask: boolean;
  masked: boolean;
  kind: string;
  strokes: number;
  why: string;
  off: boolean;
  bare: string;
};

/** What pressing on the picture sets; see `adjust.kind.Aid`. */
export type Pick = {
  title: string;
  help: string;
  drags: boolean;
};

/** What has handles on the picture. part: its place in the mask, None for the layer's own shape. */
export type Shape = {
  part: number | null;
  shape: string;
  field: string;
  values: Record<string, any>;
};

/** The frame. corners, size, border, whole: as the stack file has them, and the base's size; enabled: whether it is
    at work; turn: of its upper side, degrees; refines: whether a still picture is made of a finer one. */
export type FrameState = {
  corners: number[][];
  size: number[];
  border: number[];
  enabled: boolean;
  turn: number;
  refines: boolean;
};

/** A region in the mask, with its scribbles. */
export type Seeds = {
  part: number;
  seeds: Record<string, any>[];
};

/** What the canvas and the hand need to know of a state; roots as hexadecimal digests. through: the nine numbers of
    what carries pixels of the sheet to pixels of what the chosen layer lies on, None where they are the same. whole,
    sheet: the size of the base picture, and of what comes out; deepest: the last level of that. base: its id.
    proofs: their names by number, the newest first; notes: sets, pins, findings left and the subject, as the stack file
    has them. */
export type PageState = {
  revision: number;
  space: string;
  trouble: string;
  said: string;
  chosen: string;
  target: Target;
  curves: Record<string, string>;
  straight: string;
  picks: Record<string, Pick>;
  shapes: Shape[];
  regions: Seeds[];
  frame: FrameState | null;
  through: number[] | null;
  whole: number[];
  sheet: number[];
  deepest: number;
  root: string;
  undo: string | null;
  redo: string | null;
  base: string;
  proofs: Record<string, string>;
  notes: Record<string, any>;
  message: string;
};
