import { setting } from "../../ui/setting";

/** Where typing goes on behind the last cell of a row: beyond the glass, or in the row that the module writes next. */
export type RowEnd = "beyond" | "module";

const chosen = setting<RowEnd>("slatebell-row-end", (kept) => (kept === "module" ? "module" : "beyond"));

export const setRowEnd = chosen.set;

/** Where typing goes on now. */
export const useRowEnd = chosen.useValue;
