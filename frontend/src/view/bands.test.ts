import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { type Fences, inBands, rowsNext } from "./bands";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** Graphics that take so many milliseconds for each row that `draw` is asked for. */
function slow(msARow: number) {
  let done = 0;
  const asked: number[] = [];
  const fences = {
    fenceSync: () => ({}) as WebGLSync,
    getSyncParameter: () => (performance.now() >= done ? 1 : 0),
    deleteSync: () => {},
    flush: () => {},
    SYNC_GPU_COMMANDS_COMPLETE: 0,
    SYNC_STATUS: 0,
    SIGNALED: 1,
  } as unknown as Fences;
  const draw = (rows: number) => {
    asked.push(rows);
    done = performance.now() + msARow * rows;
    return asked.reduce((a, b) => a + b) >= 700;
  };
  return { fences, draw, asked };
}

test("slow graphics are given bands that take about as long as a page may wait", () => {
  const { fences, draw, asked } = slow(3);
  const then = vi.fn();
  inBands(fences, draw, then);
  vi.advanceTimersByTime(1500);
  expect(then).not.toHaveBeenCalled();
  vi.advanceTimersByTime(3000);
  expect(then).toHaveBeenCalledTimes(1);
  for (const rows of asked.slice(2)) expect(3 * rows).toBeLessThan(120);
});

test("quick ones are done in a few", () => {
  const { fences, draw, asked } = slow(0.01);
  const then = vi.fn();
  inBands(fences, draw, then);
  vi.advanceTimersByTime(100);
  expect(then).toHaveBeenCalledTimes(1);
  expect(asked.length).toBeLessThan(6);
});

test("what is not wanted any more comes to no end", () => {
  const { fences, draw, asked } = slow(3);
  const then = vi.fn();
  const stop = inBands(fences, draw, then);
  vi.advanceTimersByTime(200);
  stop();
  const before = asked.length;
  vi.advanceTimersByTime(9000);
  expect(asked.length).toBe(before);
  expect(then).not.toHaveBeenCalled();
});

test("a band never grows or shrinks by leaps, and has a row", () => {
  expect(rowsNext(16, 0)).toBe(64);
  expect(rowsNext(16, 1e5)).toBe(4);
  expect(rowsNext(1, 1e5)).toBe(1);
});

test("bands that each take long for other reasons are no narrower than asked", () => {
  expect(rowsNext(100, 1000, 80)).toBe(80);
  expect(rowsNext(100, 10, 80)).toBe(400);
  const { fences, draw, asked } = slow(30);
  inBands(fences, draw, () => {}, { least: 175 });
  vi.advanceTimersByTime(60_000);
  expect(asked).toEqual([175, 175, 175, 175]);
});

test("where bands take longer than patience lasts, something else is done instead", () => {
  for (const [patienceMs, drawn] of [
    [400, 2],
    [600, 4],
  ] as const) {
    const { fences, draw, asked } = slow(3);
    const [then, instead] = [vi.fn(), vi.fn()];
    inBands(fences, draw, then, { least: 175, patienceMs, instead });
    vi.advanceTimersByTime(60_000);
    expect(asked.length).toBe(drawn);
    expect([then.mock.calls.length, instead.mock.calls.length]).toEqual(drawn === 2 ? [0, 1] : [1, 0]);
  }
});
