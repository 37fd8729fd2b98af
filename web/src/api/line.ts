import { ApiError, post, problemOf } from "./client";
import { hashOf } from "./hash";
import { patched } from "./patched";
import type { Operation } from "rfc6902";
import type { paths } from "./schema.gen";

/** What is posted to a path, and what is answered, as JSON. */
type Asked<P extends keyof paths> = paths[P] extends {
  post: { requestBody: { content: { "application/json": infer B } } };
}
  ? B
  : never;
type Answered<P extends keyof paths> = paths[P] extends {
  post: { responses: { 200: { content: { "application/json": infer A } } } };
}
  ? A
  : never;

/** A question that waits for its answer. */
interface Waiting {
  answered: (answer: unknown) => void;
  failed: (why: Error) => void;
}

/** Of an answer: with a path it is kept until the next one of that path, with since its body says what is new since that one. */
interface Head {
  id: number;
  status: number;
  path?: string;
  since?: number;
}

/** A line that failed is not tried again for so long, in milliseconds. */
const AGAIN_MS = 1000;

/** A line on which a question is open, and nothing was heard for so long, is dead: what stands between may not tell. In milliseconds. */
const DEAD_MS = 15_000;

/**
 * The connection that is kept open to the program: a message each way takes one or two milliseconds, a request and its answer five and
 * more. server/api/line says how it is spoken. As long as it is not open, and where a browser or what stands between refuses it, questions
 * are requests as any other.
 */
class Line {
  private socket: WebSocket | undefined;
  private tried = -AGAIN_MS;
  private timer: number | undefined;
  private number = 0;
  private readonly waiting = new Map<number, Waiting>();
  private readonly kept = new Map<string, { id: number; answer: unknown }>();

  constructor() {
    window.addEventListener("pagehide", () => this.close());
    window.addEventListener("offline", () => this.close());
  }

  /** Opens the line for the questions to come, unless it is open, or was tried just now. */
  open() {
    if (this.socket || performance.now() - this.tried < AGAIN_MS) return;
    this.tried = performance.now();
    const { protocol, host } = window.location;
    let socket: WebSocket;
    try {
      socket = new WebSocket(`${protocol === "https:" ? "wss:" : "ws:"}//${host}/api/line`);
    } catch {
      return; // a browser that lets no page do so says it at once
    }
    this.socket = socket;
    socket.onmessage = ({ data }: MessageEvent<string>) => this.hear(data);
    socket.onclose = () => this.gone(socket);
  }

  /** Sends a question; what gives it up is returned. Undefined where the line is not open. */
  ask(path: string, body: string, waiting: Waiting): (() => void) | undefined {
    const { socket } = this;
    if (socket?.readyState !== WebSocket.OPEN) return undefined;
    const id = ++this.number;
    this.waiting.set(id, waiting);
    this.listen();
    socket.send(`${JSON.stringify({ id, path })}\n${body}`);
    return () => {
      if (this.waiting.delete(id) && socket.readyState === WebSocket.OPEN)
        socket.send(JSON.stringify({ id, drop: true }));
    };
  }

  private hear(message: string) {
    const end = message.indexOf("\n");
    const head = JSON.parse(message.slice(0, end)) as Head;
    const waiting = this.waiting.get(head.id);
    this.waiting.delete(head.id);
    this.listen();
    const body = message.slice(end + 1);
    if (head.status >= 300) {
      waiting?.failed(new ApiError(head.status, problemOf(body)));
      return;
    }
    try {
      const answer = this.answer(head, body);
      waiting?.answered(answer);
    } catch (e) {
      waiting?.failed(e as Error);
      this.close(); // what is told against it would be as wrong
    }
  }

  /** A good answer, which is kept though nobody waits for it any more: the next one may be told against it. */
  private answer({ id, path, since }: Head, body: string): unknown {
    let answer = JSON.parse(body) as unknown;
    if (path === undefined) return answer;
    if (since !== undefined) {
      const before = this.kept.get(path);
      if (before?.id !== since) throw new TypeError(`an answer against ${since}, which is not kept`);
      answer = patched(before.answer, answer as Operation[]);
    }
    this.kept.set(path, { id, answer });
    return answer;
  }

  /** Gives the line up unless something is heard in time. */
  private listen() {
    window.clearTimeout(this.timer);
    if (this.waiting.size > 0) this.timer = window.setTimeout(() => this.close(), DEAD_MS);
  }

  private close() {
    this.socket?.close();
    if (this.socket) this.gone(this.socket);
  }

  private gone(socket: WebSocket) {
    if (this.socket !== socket) return;
    this.socket = undefined;
    this.kept.clear();
    const left = [...this.waiting.values()];
    this.waiting.clear();
    for (const w of left) w.failed(new TypeError("the connection to the program ended"));
  }
}

const line = new Line();

/**
 * Asks the program what would be posted to a path, by the line where it is open. What is not answered well is thrown as an ApiError.
 * @param signal gives the question up
 */
export function ask<P extends keyof paths>(path: P, body: Asked<P>, signal?: AbortSignal): Promise<Answered<P>> {
  const text = hashOf(body); // is JSON, and mostly at hand: it is the query's key
  line.open();
  return new Promise((resolve, reject: (why: Error) => void) => {
    const drop = line.ask(path, text, {
      answered: (answer) => resolve(answer as Answered<P>),
      failed: reject,
    });
    if (!drop) {
      post<Answered<P>>(path, text, signal).then(resolve, reject);
      return;
    }
    signal?.addEventListener("abort", () => {
      drop();
      reject(signal.reason as Error);
    });
  });
}
