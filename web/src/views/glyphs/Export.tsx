import { useState } from "react";
import { client, unwrap, type Drawing, type Schemas } from "../../api/client";
import { keep } from "../../ui/keep";
import { reason } from "../../work/reason";
import { List } from "../../ui/List";

type Form = Schemas["WriteGlyphsRequest"]["to"];

const ends: Record<Form, string> = {
  json: "json",
  bdf: "bdf",
  pbm: "pbm",
  c: "h",
  python: "py",
  hex: "txt",
  bits: "txt",
};

/** Exports the library of the bench to a file. */
export function Export({ glyphs, name }: { glyphs: Drawing[]; name: string }) {
  const [trouble, setTrouble] = useState<string>();
  const save = async (to: Form) => {
    try {
      const { text } = unwrap(await client.POST("/api/glyphs/write", { body: { glyphs, to } }));
      const stem = name.toLowerCase().replace(/[^a-z0-9]+/g, "-");
      keep(`${stem}-glyphs.${ends[to]}`, text);
      setTrouble(undefined);
    } catch (e) {
      setTrouble(reason(e));
    }
  };
  return (
    <>
      <List
        aria-label="Export the library as"
        disabled={glyphs.length === 0}
        value=""
        onChange={(e) => void save(e.target.value as Form)}
      >
        <option value="" disabled>
          Export as…
        </option>
        <option value="json">JSON</option>
        <option value="bdf">BDF font</option>
        <option value="pbm">PBM picture</option>
        <option value="c">C</option>
        <option value="python">Python</option>
      </List>
      {trouble && <p role="alert">{trouble}</p>}
    </>
  );
}
