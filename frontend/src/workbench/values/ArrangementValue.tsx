import { Link, useParams } from "react-router-dom";
import type { ValueSpec } from "../../api/client";

/** How parts are arranged, in words; they are moved on the Sheets screen. */
export function ArrangementValue({ spec, value }: { spec: ValueSpec; value: unknown[][] }) {
  const { project = "" } = useParams();
  const pinned = value.filter((v) => v[5]).length;
  const words = !value.length
    ? "arranged as they come"
    : pinned === value.length
      ? `${pinned} pinned`
      : `${value.length} arranged${pinned ? `, ${pinned} of them pinned` : ""}`;
  return (
    <Link className="live" to={`/p/${project}/sheets`} title={spec.hint} data-value={spec.name}>
      {words}
    </Link>
  );
}
