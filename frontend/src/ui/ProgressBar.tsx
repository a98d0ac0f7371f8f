/** How far long work has come, from 0 to 1. */
export function ProgressBar({ share, className = "w-32" }: { share: number; className?: string }) {
  return (
    <span
      role="progressbar"
      aria-label="Progress"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(share * 100)}
      className={`inline-block h-1.5 overflow-hidden rounded-full bg-rule ${className}`}
    >
      <span className="block h-full bg-plum" style={{ width: `${share * 100}%` }} />
    </span>
  );
}
