import { useState } from "react";
import type { Bench, Module } from "../../api/client";
import { EVENTS_THERE, playThere } from "../../api/realTable";
import { Quiet } from "../../ui/Quiet";
import { reason } from "../../work/reason";
import { useRealTable } from "../../work/useRealTable";
import { clock } from "../../work/showWords";

/** Plays the module's show on the real glass, where a board is connected: the host's own buttons and knobs are its inputs. */
export function OnTheTable({ bench, module }: { bench: Bench; module: Module }) {
  const { table, by, told, drives } = useRealTable();
  const [refused, setRefused] = useState<string>();
  if (!drives) return null;
  const at = bench.modules.findIndex((m) => m.id === module.id);
  const playing = table?.playing?.module === at ? table.playing : undefined;
  const toggle = () =>
    void playThere(by, bench, at, playing !== undefined).then(
      (now) => {
        told(now);
        setRefused(undefined);
      },
      (e: unknown) => setRefused(reason(e)),
    );
  return (
    <>
      <Quiet
        aria-pressed={playing !== undefined}
        title={
          playing?.unheard.length
            ? `Not heard at a pin: ${playing.unheard.join(", ")}; they are worked here`
            : "The host’s own buttons and knobs are the inputs"
        }
        onClick={toggle}
      >
        On the real glass{playing && ` ${clock(playing.ms)}`}
      </Quiet>
      {playing && playing.events > 0 && (
        <Quiet component="a" href={EVENTS_THERE} download title="What happened there, as a CSV file that play takes">
          Its {playing.events} events
        </Quiet>
      )}
      {refused && <span role="alert">{refused}</span>}
    </>
  );
}
