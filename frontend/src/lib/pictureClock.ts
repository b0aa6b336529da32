/**
 * Which output frame the picture shows while sound plays.
 *
 * The audio hardware's own time stamp moves in steps and is smoothed; a frame is kept until the clock has left it
 * by more than a little, because clock and screen beat against each other.
 */
const HYSTERESIS_FRAMES = 0.6
const SMOOTHING = 0.08
const JUMP_SECONDS = 0.08

export class PictureClock {
  private smooth: number
  private drifted = 0

  /** ``heard`` and ``now`` are seconds: since playing began, and of the screen's own clock. */
  constructor(
    heard: number,
    private now: number,
  ) {
    this.smooth = heard
  }

  /** What is heard now, smoothed; a jump of the hardware's clock is followed at once. */
  heard(stamp: number, now: number): number {
    this.smooth += now - this.now
    this.now = now
    const error = stamp - this.smooth
    this.smooth += Math.abs(error) > JUMP_SECONDS ? error : error * SMOOTHING
    return this.smooth
  }

  /** The frame to show at a position in frames, while ``frame`` is shown. */
  next(frame: number, position: number): number {
    const near = (n: number) => Math.abs(position - (n + 0.5)) <= HYSTERESIS_FRAMES
    return near(frame) ? frame : near(frame + 1) ? frame + 1 : Math.floor(position)
  }

  /** How far the middle of a frame lies from a position in the long run, in frames: steps are smoothed away. */
  drift(frame: number, position: number): number {
    this.drifted += (position - (frame + 0.5) - this.drifted) * SMOOTHING
    return Math.abs(this.drifted)
  }
}
