import Tooltip from "@mui/material/Tooltip";
import { memo, type ReactNode } from "react";
import { glossary } from "./glossary";
import css from "./Term.module.css";

interface Props {
  /** The word as the glossary has it. */
  of?: string;
  /** What is said of a word that only this place has. */
  means?: string;
  children?: ReactNode;
}

/** A word of the trade, dotted: pointing at it, touching it or coming to it by keys says what it means. */
export const Term = memo(function Term({ of = "", means = glossary.get(of) ?? "", children = of }: Props) {
  return (
    <Tooltip title={means} describeChild arrow enterTouchDelay={0} leaveTouchDelay={4000}>
      <dfn className={css.term} tabIndex={0} data-word={of}>
        {children}
      </dfn>
    </Tooltip>
  );
});
