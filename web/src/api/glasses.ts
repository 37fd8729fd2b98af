import { queryOptions } from "@tanstack/react-query";
import { ApiError, client, lasting, unwrap, type Glass, type RunResult, type Schemas, type Setup } from "./client";

/** The glass of a screen, and how many findings there are, notes aside. */
export interface Drawn {
  glass: Glass;
  open: number;
}

/** A fault that is made on purpose, by its id. */
type Fault = Schemas["GlassRequest"]["fault"];

interface Waiting {
  screen: Schemas["GlassRequest"];
  resolve: (drawn: Drawn) => void;
  reject: (why: unknown) => void;
}

/** How many are asked for at most in one request. */
const TOGETHER = 64;

let waiting: Waiting[] = [];

/** Asks for all that wait. */
function askAll() {
  const all = waiting;
  waiting = [];
  for (let i = 0; i < all.length; i += TOGETHER) void ask(all.slice(i, i + TOGETHER));
}

async function ask(some: Waiting[]) {
  let list: Schemas["Drawn"][];
  try {
    list = unwrap(await client.POST("/api/glasses", { body: { screens: some.map((w) => w.screen) } }));
  } catch (why) {
    for (const w of some) w.reject(why);
    return;
  }
  some.forEach(({ resolve, reject }, i) => {
    const { glass, open = 0, problem } = list[i] ?? {};
    if (glass) resolve({ glass, open });
    else reject(new ApiError(422, { detail: problem }));
  });
}

/** What a run says of its glass. */
export const drawnOf = (run: RunResult): Drawn => ({
  glass: run.glass,
  open: run.findings.filter((f) => f.severity !== "note").length,
});

/** What the glass of a screen shows, as the simulated module has it. Those that are asked for at a time are asked for together. */
export const glassQuery = (setup: Setup, fault?: Fault) =>
  queryOptions({
    queryKey: ["glass", setup, fault],
    queryFn: () =>
      new Promise<Drawn>((resolve, reject) => {
        if (waiting.length === 0) setTimeout(askAll);
        waiting.push({ screen: { ...setup, fault }, resolve, reject });
      }),
    ...lasting,
  });
