/** Files that are put where the browser keeps what it loads down. */

const KEPT_MS = 1000;

/** What lies at an address, under a name of its own. */
export function saveFrom(address: string, name: string) {
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
}

export function saveAs(content: Blob, name: string) {
  const address = URL.createObjectURL(content);
  saveFrom(address, name);
  setTimeout(() => URL.revokeObjectURL(address), KEPT_MS);
}
