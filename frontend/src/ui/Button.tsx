import type { ButtonHTMLAttributes } from "react";

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { tone?: "plain" | "live" | "quiet" };

const TONES = {
  plain: "border border-rule bg-leaf px-3 py-1 hover:border-plum hover:text-plum",
  live: "border border-plum bg-plum px-3 py-1 text-leaf hover:bg-ink hover:border-ink",
  quiet: "px-2 py-1 hover:text-plum hover:bg-plum-pale",
};

export function Button({ tone = "plain", className = "", ...rest }: Props) {
  return (
    <button
      type="button"
      className={`rounded-sm text-sm whitespace-nowrap disabled:pointer-events-none disabled:opacity-40 ${TONES[tone]} ${className}`}
      {...rest}
    />
  );
}
