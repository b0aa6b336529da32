/** How a line of the sheet is laid out, in pixels from its top: ruler, cues, clips, their speed, the music. */
export const RULER = 14
export const CUES = 10
export const CLIPS = RULER + CUES
export const STRIP = 40
export const BAND = 6
export const WAVE = CLIPS + STRIP + BAND + 3
export const LINE_HEIGHT = WAVE + 24
