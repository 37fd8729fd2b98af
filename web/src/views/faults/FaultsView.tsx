import { useState } from "react";
import { Tabs } from "../../ui/Tabs";
import { Finder } from "../../parts/finder/Finder";
import { Practice } from "./Practice";
import css from "./FaultsView.module.css";

const tabs = [
  { id: "find", title: "Find a fault" },
  { id: "practice", title: "Practise" },
] as const;

/** From what the glass shows to what is wrong, and a bench to practise on. */
export default function FaultsView() {
  const [tab, setTab] = useState<(typeof tabs)[number]["id"]>("find");
  return (
    <div className={css.view}>
      <Tabs label="Faults" tabs={tabs} value={tab} onChange={setTab} />
      {tab === "find" ? <Finder /> : <Practice />}
    </div>
  );
}
