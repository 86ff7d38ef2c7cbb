/** The colours, once: styles read them as variables of these names, Ant Design Vue as its tokens. */
export interface Palette {
  /** Text, and text that says less. */
  ink: string
  ink2: string
  mute: string
  /** The band on top, and the scan line under it: dark in both themes. */
  night: string
  night2: string
  /** The page, what stands on it, and what is set off from it. */
  paper: string
  sheet: string
  shade: string
  hover: string
  /** Lines between things, and the borders of what can be changed (3:1). */
  line: string
  hair: string
  edge: string
  lamp: string
  /** Doing: the fill under white, the text, the tint, the tint under a pointer. */
  act: string
  actHover: string
  actDown: string
  actInk: string
  act2: string
  act3: string
  /** Stop: the same four. */
  stop: string
  stopHover: string
  stopDown: string
  /** What is written on a tint of it, and what is late on the page. */
  stopInk: string
  stopText: string
  stop2: string
  stop3: string
  stopEdge: string
  ok: string
  okInk: string
  ok2: string
  okEdge: string
  warn: string
  warnInk: string
  warn2: string
  warn3: string
  warnEdge: string
  /** A button that cannot be pressed. */
  idle: string
  /** Fullness on the plan, from empty to nearly full, and the stripes of a full bin. */
  full0: string
  full1: string
  full2: string
  full3: string
  full4: string
  full5: string
  stripe: string
  binEdge: string
  aisle: string
  /** A bar of how full or how far, and what a bin holds already. */
  track: string
  held: string
}

export const light: Palette = {
  ink: '#231e18',
  ink2: '#4d4438',
  mute: '#655a4b',
  night: '#262019',
  night2: '#322a21',
  paper: '#f5f1e8',
  sheet: '#fffdf8',
  shade: '#ece5d7',
  hover: '#f3eddf',
  line: '#e1d8c6',
  hair: '#efe8da',
  edge: '#887c67',
  lamp: '#f2ac34',
  act: '#1c5a4e',
  actHover: '#2a7465',
  actDown: '#123f36',
  actInk: '#1c5a4e',
  act2: '#e3eee9',
  act3: '#d3e4dc',
  stop: '#a8321f',
  stopHover: '#bf4733',
  stopDown: '#7c2113',
  stopInk: '#7c2113',
  stopText: '#a8321f',
  stop2: '#f7e6e1',
  stop3: '#f2d6ce',
  stopEdge: '#d48a7c',
  ok: '#2d7548',
  okInk: '#1a4d2c',
  ok2: '#e4efe2',
  okEdge: '#8db794',
  warn: '#8f5600',
  warnInk: '#5e3900',
  warn2: '#fbeed3',
  warn3: '#f6e2b8',
  warnEdge: '#d3a24a',
  idle: '#756c5e',
  full0: '#f3ecdd',
  full1: '#ead9b0',
  full2: '#dfbf7a',
  full3: '#cfa14a',
  full4: '#b3822c',
  full5: '#8f6a24',
  stripe: '#fff4da',
  binEdge: '#c9b893',
  aisle: '#d8cdb8',
  track: '#ebe3d3',
  held: '#cdb98f',
}

export const dark: Palette = {
  ink: '#f3eadb',
  ink2: '#d9ccb8',
  mute: '#b9ab95',
  night: '#120e0a',
  night2: '#1a1510',
  paper: '#1c1712',
  sheet: '#272119',
  shade: '#211b15',
  hover: '#332b21',
  line: '#40372b',
  hair: '#342c22',
  edge: '#8f816a',
  lamp: '#f2ac34',
  act: '#2a7465',
  actHover: '#348a78',
  actDown: '#1f5c50',
  actInk: '#86cdb9',
  act2: '#1f362f',
  act3: '#28463d',
  stop: '#b43c28',
  stopHover: '#c85039',
  stopDown: '#8d2a1a',
  stopInk: '#ffc3b6',
  stopText: '#ff9f8b',
  stop2: '#42211a',
  stop3: '#562a20',
  stopEdge: '#8d4a3c',
  ok: '#7cc491',
  okInk: '#a3dcb3',
  ok2: '#1f3525',
  okEdge: '#4b7a58',
  warn: '#e9b75c',
  warnInk: '#f4cd86',
  warn2: '#3d2e13',
  warn3: '#4f3c1a',
  warnEdge: '#8a6a2b',
  idle: '#5a5145',
  full0: '#2e271e',
  full1: '#4a3c21',
  full2: '#6b5426',
  full3: '#8f6e2a',
  full4: '#b68a33',
  full5: '#d8a744',
  stripe: '#2b2114',
  binEdge: '#6a5a3f',
  aisle: '#4a4032',
  track: '#3a3126',
  held: '#7b6841',
}
