/** What is kept in this browser, as JSON by a key. */

/** What was kept; something else where there is nothing, or nothing that can be read. */
export function kept<T>(key: string, otherwise: T): T {
  try {
    const text = localStorage.getItem(key);
    return text === null ? otherwise : (JSON.parse(text) as T);
  } catch {
    return otherwise;
  }
}

export const keep = (key: string, value: unknown) => localStorage.setItem(key, JSON.stringify(value));
