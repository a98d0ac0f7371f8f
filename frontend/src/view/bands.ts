/** Drawing that takes long, done in bands while the page goes on. */

/** Milliseconds that a band may take to be drawn. */
const BUDGET_MS = 80;
const FIRST_ROWS = 16;
/** How many times as many rows, or as few, the next band has at most. */
const STEP = 4;
const LOOK_EVERY_MS = 4;
/** The band that tells how long the others will take. */
const JUDGED = 2;

/** What tells when drawing has come to an end, of the graphics a page draws with. */
export type Fences = Pick<
  WebGL2RenderingContext,
  | "fenceSync"
  | "getSyncParameter"
  | "deleteSync"
  | "flush"
  | "SYNC_GPU_COMMANDS_COMPLETE"
  | "SYNC_STATUS"
  | "SIGNALED"
>;

/** Rows of the next band after so many took so many milliseconds, no fewer than the least. */
export function rowsNext(rows: number, ms: number, least = 1): number {
  const fit = Math.min(Math.max(BUDGET_MS / Math.max(ms, 1), 1 / STEP), STEP);
  return Math.max(least, Math.round(rows * fit));
}

/** The fewest rows of a band, and what is done instead of going on where a band takes longer than patience lasts: not the
 * first, which waits for what was drawn before. */
export interface Bands {
  least?: number;
  patienceMs?: number;
  instead?: () => void;
}

/** Draws band by band: `draw` so many rows more, which tells whether these were the last. `then` is called once all is
 * drawn, unless the returned function was, which ends it. */
export function inBands(
  gl: Fences,
  draw: (rows: number) => boolean,
  then: () => void,
  { least = 1, patienceMs = Number.POSITIVE_INFINITY, instead = () => {} }: Bands = {},
): () => void {
  let rows = Math.max(FIRST_ROWS, least);
  let drawn = 0;
  let timer: ReturnType<typeof setTimeout>;
  let fence: WebGLSync | null = null;
  const band = () => {
    const started = performance.now();
    const isLast = draw(rows);
    fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    const look = () => {
      const isDrawn = !fence || gl.getSyncParameter(fence, gl.SYNC_STATUS) === gl.SIGNALED;
      if (!isDrawn) {
        timer = setTimeout(look, LOOK_EVERY_MS);
        return;
      }
      gl.deleteSync(fence);
      const taken = performance.now() - started;
      rows = rowsNext(rows, taken, least);
      drawn += 1;
      if (isLast) then();
      else if (drawn === JUDGED && taken > patienceMs) instead();
      else band();
    };
    timer = setTimeout(look, LOOK_EVERY_MS);
  };
  band();
  return () => clearTimeout(timer);
}
