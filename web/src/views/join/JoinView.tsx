import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState, type SyntheticEvent } from "react";
import { ApiError } from "../../api/client";
import { askToJoin, meQuery, waitToJoin } from "../../api/room";
import { Bell } from "../../ui/Bell";
import { Line } from "../../ui/Line";
import { setting } from "../../ui/setting";
import { sentence } from "../../work/reason";
import css from "./JoinView.module.css";

const AGAIN_MS = 2000;

/** What a device is called that says nothing of itself. */
const usual = () => (/Android|iPhone|Mobile/.test(navigator.userAgent) ? "Telephone" : "Tablet or computer");

const deviceName = setting("slatebell-device-name", (kept) => kept ?? usual());

/** Where a device comes in: it gives the code that the desk shows and its name, and waits until it is let in. */
export default function JoinView() {
  const queries = useQueryClient();
  const [code, setCode] = useState(() => location.hash.slice(1));
  const [name, setName] = useState(deviceName.get);
  const [waits, setWaits] = useState(false);
  const [problem, setProblem] = useState("");

  const wait = useCallback(async () => {
    for (;;) {
      try {
        if ((await waitToJoin()).state === "in") break;
      } catch (e) {
        if (e instanceof ApiError) {
          setWaits(false);
          setProblem(sentence(e));
          return;
        }
        await new Promise((done) => setTimeout(done, AGAIN_MS)); // the network may come back
      }
    }
    if (location.pathname === "/join") history.replaceState(null, "", "/");
    await queries.resetQueries({ queryKey: meQuery.queryKey });
    location.reload();
  }, [queries]);

  const ask = async (e: SyntheticEvent) => {
    e.preventDefault();
    setProblem("");
    deviceName.set(name);
    try {
      await askToJoin(code, name);
      setWaits(true);
      void wait();
    } catch (e) {
      setProblem(sentence(e));
    }
  };
  useEffect(() => {
    document.title = "Come in · Slate Bell";
  }, []);
  return (
    <main className={css.page}>
      <h1>
        <Bell /> Slate Bell
      </h1>
      {waits ? (
        <div role="status" className={css.waits}>
          <p>
            <strong>The desk is asked to let “{name}” in.</strong>
          </p>
          <p>Keep this page open until it answers.</p>
        </div>
      ) : (
        <form onSubmit={(e) => void ask(e)} className={css.form}>
          <p>To come in, this device needs the code that the desk shows under Room.</p>
          <Line label="Code" value={code} onChange={setCode} mark="code" />
          <Line label="Name of this device" value={name} onChange={setName} mark="name" />
          {problem && <p role="alert">{problem}</p>}
          <Button type="submit" variant="contained" size="large" disabled={!code.trim() || !name.trim()}>
            Ask to come in
          </Button>
        </form>
      )}
    </main>
  );
}
