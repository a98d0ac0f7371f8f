/** Brings a clause of the statement into sight: to the middle of what is seen, or no further than is needed. */
export function scrollToClause(clause: string, block: "center" | "nearest" = "center") {
  document.querySelector(`[data-clause="${CSS.escape(clause)}"]`)?.scrollIntoView({ block });
}
