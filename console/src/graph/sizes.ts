/** Sizes of what is drawn, in px; the style sheet gets them from here. */
export const BOX_WIDTH = 216
export const HEAD_HEIGHT = 50
export const ROW_HEIGHT = 24
export const FACT_HEIGHT = 18
