// Draws a picture with the next frame, once however often it is asked, one at a time. The page does not wait until it
// stands: where no graphics card draws, that takes seconds.

/** Between two looks at whether a picture stands. */
const LOOK_MS = 8;

type State = 'still' | 'asked' | 'drawing' | 'drawing, asked again' | 'ended';

export interface FrameWork {
  /** Gives the graphics card what a picture takes. */
  readonly draw: () => void;
  /** The picture stands, whole. @param beganMs when it was begun */
  readonly stands: (beganMs: number) => void;
}

/** What is needed of a drawing context. */
export type FenceContext = Pick<
  WebGL2RenderingContext,
  | 'fenceSync'
  | 'deleteSync'
  | 'getSyncParameter'
  | 'flush'
  | 'isContextLost'
  | 'SYNC_GPU_COMMANDS_COMPLETE'
  | 'SYNC_STATUS'
  | 'SIGNALED'
>;

export class Frames {
  private state: State = 'still';
  private request = 0;
  private looking: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly gl: FenceContext,
    private readonly work: FrameWork,
  ) {}

  get isStill(): boolean {
    return this.state === 'still';
  }
  ask(): void {
    if (this.state === 'drawing') this.state = 'drawing, asked again';
    if (this.state !== 'still') return;
    this.state = 'asked';
    this.request = requestAnimationFrame(() => this.draw());
  }
  end(): void {
    this.state = 'ended';
    cancelAnimationFrame(this.request);
    clearTimeout(this.looking);
  }

  private draw(): void {
    if (this.state !== 'asked') return;
    this.state = 'drawing';
    const beganMs = performance.now();
    this.work.draw();
    // finish() does not wait in a browser, and what is read waits for all of it: a fence is looked at now and then
    const fence = this.gl.fenceSync(this.gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    this.gl.flush();
    this.look(fence, beganMs);
  }
  private look(fence: WebGLSync | null, beganMs: number): void {
    this.looking = setTimeout(() => {
      if (this.isDrawn(fence)) this.drawn(fence, beganMs);
      else this.look(fence, beganMs);
    }, LOOK_MS);
  }
  private isDrawn(fence: WebGLSync | null): boolean {
    const { gl } = this;
    return !fence || gl.isContextLost() || gl.getSyncParameter(fence, gl.SYNC_STATUS) === gl.SIGNALED;
  }
  private drawn(fence: WebGLSync | null, beganMs: number): void {
    this.gl.deleteSync(fence);
    const isAskedAgain = this.state === 'drawing, asked again';
    this.state = 'still';
    if (isAskedAgain) this.ask();
    this.work.stands(beganMs);
  }
}
