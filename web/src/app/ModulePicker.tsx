import { memo, useCallback, useRef, useState, type KeyboardEvent } from "react";
import type { Module } from "../api/client";
import { Icon } from "../ui/Icon";
import { useBench } from "../work/BenchContext";
import { linkKinds } from "../work/linkKinds";
import { useShortcut } from "../ui/shortcuts";
import { Bare } from "../ui/Bare";
import { Quiet } from "../ui/Quiet";
import css from "./ModulePicker.module.css";

/** The bench's modules, one of which is on the dock: it, its neighbours, and a list of all. */
export function ModulePicker() {
  const { bench, module, selectModule, addModules, removeModule } = useBench();
  const [lack, setLack] = useState<string>();
  const list = useRef<HTMLDivElement>(null);
  const at = bench.modules.findIndex((m) => m.id === module.id);
  const before = bench.modules[at - 1];
  const after = bench.modules[at + 1];

  useShortcut(
    "module",
    useCallback(
      (key) => {
        const to = key === "Page Up" ? before : after;
        if (to) selectModule(to.id);
      },
      [before, after, selectModule],
    ),
  );

  const close = () => list.current?.hidePopover();
  const walk = (e: KeyboardEvent<HTMLDivElement>) => {
    const by = { ArrowUp: -1, ArrowDown: 1 }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    const buttons = [...e.currentTarget.querySelectorAll("button")];
    const to = buttons.findIndex((b) => b === document.activeElement) + by;
    buttons[Math.min(Math.max(to, 0), buttons.length - 1)]?.focus();
  };
  return (
    <div className={css.picker} role="group" aria-label="Modules">
      <Step to={before} icon="left" title="Module before" keys="Alt+Page Up" select={selectModule} />
      <Bare className={css.current} popoverTarget="modules" title="All modules of this bench">
        <span className={css.name}>{module.name || "Unnamed module"}</span>
        <small>
          {at + 1} of {bench.modules.length}
        </small>
      </Bare>
      <Step to={after} icon="right" title="Module after" keys="Alt+Page Down" select={selectModule} />
      <div
        id="modules"
        popover="auto"
        ref={list}
        className={css.list}
        role="group"
        aria-label="All modules"
        onKeyDown={walk}
        onToggle={(e) => {
          if (e.newState === "open") list.current?.querySelector<HTMLElement>("[aria-current]")?.focus();
        }}
      >
        {bench.modules.map((m) => (
          <Bare
            key={m.id}
            aria-current={m.id === module.id || undefined}
            onClick={() => {
              close();
              selectModule(m.id);
            }}
          >
            <span className={css.name}>{m.name || "Unnamed module"}</span>
            <small>
              {m.display.geometry.split("@")[0]} {m.display.technology.toUpperCase()}, {linkKinds[m.link.kind]}
            </small>
          </Bare>
        ))}
        {lack && <p role="alert">{lack}</p>}
        <p className={css.doing}>
          <Quiet
            onClick={() => {
              void addModules(module, 1).then((why) => {
                setLack(why);
                if (!why) close();
              });
            }}
          >
            Add one like it
          </Quiet>
          {bench.modules.length > 1 && (
            <Quiet
              onClick={() => {
                close();
                removeModule(module.id);
              }}
            >
              Take it away
            </Quiet>
          )}
        </p>
      </div>
    </div>
  );
}

interface StepProps {
  to: Module | undefined;
  icon: "left" | "right";
  title: string;
  keys: string;
  select: (id: string) => void;
}

const Step = memo(function Step({ to, icon, title, keys, select }: StepProps) {
  return (
    <Bare
      className={css.step}
      aria-label={title}
      title={to ? `${to.name || "Unnamed module"} (${keys})` : title}
      disabled={!to}
      onClick={() => to && select(to.id)}
    >
      <Icon name={icon} size={18} />
    </Bare>
  );
});
