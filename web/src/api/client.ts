/** The typed API client: adds the token that writing needs, turns refusals into sentences. */
import createClient from "openapi-fetch";

import { useSession } from "../stores/session";
import type { components, paths } from "./generated";

export type Schemas = components["schemas"];
/** What comes from the server carries every field and every list. */
export type Whole<T> = T extends object ? { [K in keyof T]-?: Whole<T[K]> } : T;
export type SceneDocument = Whole<Schemas["Scene"]>;
export type MoveLine = SceneDocument["moves"][number];
export type Latch = SceneDocument["latches"][number];
export type IngredientLine = Latch["ingredients"][number];
export type LineGroup = SceneDocument["groups"][number];
/** Lines of one kind, and their settings. */
export type Of<L extends { kind: string }, K extends L["kind"]> = Extract<L, { kind: K }>;
/** A line, known to be of that kind by whoever asks. */
export function of<L extends { kind: string }, K extends L["kind"]>(line: L, kind: K): Of<L, K> {
  if (line.kind !== kind) throw new TypeError(line.kind);
  return line as Of<L, K>;
}
/** Settings by their names, where it does not matter whose they are. */
export type Values = Record<string, unknown>;
/** A line of the Ground band. */
export interface GroundLine {
  on: boolean;
  why: string;
  revision: number;
  params: Values;
  latch?: string | null;
  spare?: unknown[];
}
/** Ground's lines by their kinds. */
export const groundOf = (document: SceneDocument): Record<string, GroundLine> => document.ground;
export type Kind = Schemas["Kind"];
export type ParamField = Schemas["Field"];

export function token(): string {
  return document.cookie.match(/csrftoken=([^;]+)/)?.[1] ?? "";
}

export const client = createClient<paths>({ baseUrl: "" });
client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", token());
    return request;
  },
  onResponse({ response, schemaPath }) {
    if (response.status === 401 && schemaPath !== "/api/sign-in") signedOut();
    return response;
  },
});

const AWAY = "No connection to the server. Try it again once it is back.";

/** The session has ended while somebody was at work: the password is asked for in place, nothing is left. */
function signedOut(): void {
  const session = useSession();
  if (session.name) session.ended = true;
}

/** What the server said no to, in its own sentence. */
export class Refusal extends Error {
  constructor(
    message: string,
    /** Of the answer; 0 where there was none, -1 where it was none that could be read. */
    readonly status: number,
    readonly body: unknown = null,
  ) {
    super(message);
  }
}

/** Data of a response, which carries every field, or a Refusal. */
export async function need<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<Whole<NonNullable<T>>> {
  let got;
  try {
    got = await answer;
  } catch {
    throw new Refusal(AWAY, 0);
  }
  if (got.response.ok && got.data !== undefined && got.data !== null)
    return got.data as Whole<NonNullable<T>>;
  const body = got.error as { detail?: string } | undefined;
  throw new Refusal(body?.detail ?? `That did not work; nothing was changed.`, got.response.status, body);
}

/** The same, or null where a newer request overtook this one. */
export async function needNewest<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<Whole<NonNullable<T>> | null> {
  const got = await answer.catch(() => null);
  if (got?.response.status === 204) return null;
  if (!got) throw new Refusal(AWAY, 0);
  return need<T>(Promise.resolve(got));
}

/** Something asked by POST, as JSON, where the address is put together. Raises a Refusal. */
export async function ask<T>(path: string, body: unknown): Promise<T> {
  const response = await post(path, body);
  return (await response.json()) as T;
}

/** The whole response to what is asked by POST, as JSON. Raises a Refusal. */
export async function post(path: string, body: unknown, stop?: AbortSignal): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-CSRFToken": token() },
      body: JSON.stringify(body),
      signal: stop,
    });
  } catch {
    throw new Refusal(AWAY, 0);
  }
  if (response.status === 401) signedOut();
  if (!response.ok) {
    const said = (await response.json().catch(() => null)) as { detail?: string } | null;
    throw new Refusal(said?.detail ?? `That did not work; nothing was changed.`, response.status, said);
  }
  return response;
}

/** A picture by POST: a blob, or null when a newer request overtook this one. */
export async function picture(
  path: string,
  body: unknown,
): Promise<{ blob: Blob; whole: boolean; map: Schemas["MapOut"] | null } | null> {
  const response = await post(path, body);
  if (response.status === 204) return null;
  const map = response.headers.get("X-Map");
  return {
    blob: await response.blob(),
    whole: response.headers.get("X-Frame") !== "first",
    map: map ? (JSON.parse(map) as Schemas["MapOut"]) : null,
  };
}

/** Who is signed in; null for nobody; undefined where the studio does not answer, which says nothing of it. Also
 * fetches the token that writing needs. */
export async function me(): Promise<string | null | undefined> {
  const got = await client.GET("/api/me").catch(() => null);
  return got?.data ? got.data.name : undefined;
}

/** Sign in. Raises a Refusal. */
export async function signIn(name: string, password: string): Promise<void> {
  if (!token()) await me();
  const got = await need(client.POST("/api/sign-in", { body: { name, password } }));
  useSession().signedIn(got.name ?? name);
}

/** Send one file, told how far it is (0–1). */
export function upload(
  outing: string,
  file: File,
  progress: (share: number) => void,
  stop?: AbortSignal,
): Promise<Schemas["FrameLine"]> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    stop?.addEventListener("abort", () => request.abort());
    request.onabort = () => reject(new Refusal(`${file.name} was stopped. Nothing of it was stored.`, 0));
    request.open("PUT", `/api/outings/${outing}/frames?name=${encodeURIComponent(file.name)}`);
    request.setRequestHeader("X-CSRFToken", token());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (e) => progress(e.lengthComputable ? e.loaded / e.total : 0);
    request.onerror = () =>
      reject(new Refusal(`${file.name} did not arrive: the connection broke. Nothing was stored.`, 0));
    request.onload = () => {
      if (request.status === 401) signedOut();
      let body: (Schemas["FrameLine"] & { detail?: string }) | null = null;
      try {
        body = JSON.parse(request.responseText) as Schemas["FrameLine"] & { detail?: string };
      } catch {
        body = null;
      }
      if (request.status === 200 && body !== null) resolve(body);
      else
        reject(new Refusal(body?.detail ?? `${file.name} was refused (${request.status}).`, request.status));
    };
    request.send(file);
  });
}
