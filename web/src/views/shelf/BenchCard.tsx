import { Link } from "react-router-dom";
import type { Summary } from "../../api/client";
import { Icon } from "../../ui/Icon";
import { InlineText } from "../../ui/InlineText";
import { Silhouettes } from "./Silhouettes";
import { moment } from "../../ui/numbers";
import { Quiet } from "../../ui/Quiet";
import css from "./BenchCard.module.css";

interface Props {
  bench: Summary;
  /** Copies it, and puts it into the bin; absent where that is not this device's. */
  onDuplicate: (() => void) | undefined;
  onRemove: (() => void) | undefined;
  onRename: (name: string) => void;
}

/** A bench on the shelf: its modules in outline, its name, and what is done with it as a whole. */
export function BenchCard({ bench, onDuplicate, onRemove, onRename }: Props) {
  const name = bench.name || "Unnamed bench";
  const n = bench.modules.length;
  return (
    <article className={css.card} aria-label={name}>
      <Link to={`/benches/${bench.id}`} className={css.open} aria-label={`Open ${name}`}>
        <Silhouettes bench={bench} />
      </Link>
      <InlineText strong label={`Name of ${name}`} value={bench.name} placeholder="Unnamed bench" onChange={onRename} />
      <p>
        {n === 1 ? "One module" : `${n} modules`}, changed <time dateTime={bench.updated}>{moment(bench.updated)}</time>
      </p>
      <div className={css.doing}>
        {onDuplicate && <Quiet onClick={onDuplicate}>Copy</Quiet>}
        <Quiet
          component="a"
          href={`/api/benches/${bench.id}/bench.json`}
          download
          title="As an open document, to keep or to pass on"
        >
          Export
        </Quiet>
        {onRemove && (
          <Quiet aria-label={`Put ${name} into the bin`} title="Put it into the bin" onClick={onRemove}>
            <Icon name="bin" size={17} />
          </Quiet>
        )}
      </div>
    </article>
  );
}
