import { useRef } from "react";
import { Icon } from "../../ui/Icon";
import { Quiet } from "../../ui/Quiet";
import css from "./CodeView.module.css";

/** What came of files whose own sections were to be taken over. */
export interface TakenOver {
  sections: number;
  refused: { name: string; why: string }[];
}

interface Props {
  onFiles: (files: File[]) => void;
  taken: TakenOver | undefined;
}

/** Takes over what stands in the own sections of files that were written before. */
export function TakeOver({ onFiles, taken }: Props) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <div className={css.over}>
      <Quiet
        title="Of files that were written from a bench before, what stands in their own sections; files can be dropped on this view, too"
        onClick={() => file.current?.click()}
      >
        <Icon name="up" size={16} /> Own sections from files…
      </Quiet>
      <input
        ref={file}
        className="unseen"
        type="file"
        accept=".h,.c,.ino,.py"
        multiple
        tabIndex={-1}
        aria-label="Files with own sections"
        onChange={(e) => {
          onFiles([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
      {taken && (
        <div role="status">
          {taken.sections > 0 && (
            <p>{taken.sections === 1 ? "One section was taken over" : `${taken.sections} sections were taken over`}</p>
          )}
          {taken.refused.map((r) => (
            <p key={r.name} data-wrong>
              {r.name}: {r.why}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}
