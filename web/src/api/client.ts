/** Requests to the server; every refusal becomes an ApiError with a stable code and a sentence. */

import { ref } from "vue";

export class ApiError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly details: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

/** Whether the server answers nobody at the moment. While it does not, it is asked again and again. */
export const isAway = ref(false);
const AGAIN_MS = 1200;

function tell(away: boolean): void {
  if (isAway.value === away) return;
  isAway.value = away;
  if (away) setTimeout(() => void knock(), AGAIN_MS);
}
async function knock(): Promise<void> {
  try {
    await fetch("/api/health", { cache: "no-store" });
    tell(false);
  } catch {
    setTimeout(() => void knock(), AGAIN_MS);
  }
}

/** The name of the data folder that this page came from: it changes nothing in another one. */
let folder = "";
const FOLDER = "Data-Folder";
export const folderName = (): string => folder;

/** The answer to a request. Throws: ApiError where there is none, or where it is a refusal. */
export async function ask(path: string, options: RequestInit = {}): Promise<Response> {
  let answer: Response;
  try {
    const headers = folder ? { ...options.headers, [FOLDER]: folder } : options.headers;
    answer = await fetch(`/api${path}`, { ...options, ...(headers && { headers }) });
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw new ApiError("aborted", "");
    tell(true);
    throw new ApiError("offline", "Bisectum does not answer. Is it still running?");
  }
  tell(false);
  folder ||= answer.headers.get(FOLDER) ?? "";
  if (answer.ok) return answer;
  let said: { code?: string; message?: string; details?: Record<string, unknown> };
  try {
    said = (await answer.json()) as typeof said;
  } catch {
    throw new ApiError("unreadable", "The server's answer could not be read.");
  }
  throw new ApiError(said.code ?? "http", said.message ?? answer.statusText, said.details);
}

/** What a file that is handed over is called, if its answer says so. */
export function nameOf(answer: Response): string | undefined {
  const named = /filename\*=UTF-8''([^;]+)/.exec(answer.headers.get("Content-Disposition") ?? "")?.[1];
  return named === undefined ? undefined : decodeURIComponent(named);
}

export async function request<T>(path: string, options: RequestInit = {}): Promise<T> {
  const answer = await ask(path, options);
  if (answer.status === 204) return undefined as T;
  try {
    return (await answer.json()) as T;
  } catch {
    throw new ApiError("unreadable", "The server's answer could not be read.");
  }
}

/** What is sent on after its page has gone: browsers refuse it beyond 64 kB of all that is under way. */
const SENT_ON = 8_000;

function jsonOptions(method: string, body: unknown, signal?: AbortSignal): RequestInit {
  const text = JSON.stringify(body);
  return {
    method,
    body: text,
    headers: { "Content-Type": "application/json" },
    signal: signal ?? null,
    keepalive: method === "PUT" && text.length < SENT_ON,
  };
}

export const sendJson = <T>(method: string, path: string, body: unknown, signal?: AbortSignal): Promise<T> =>
  request<T>(path, jsonOptions(method, body, signal));

/** A picture that the server makes of what is sent. */
export const askImage = async (path: string, body: unknown, signal?: AbortSignal): Promise<ImageBitmap> =>
  createImageBitmap(await (await ask(path, jsonOptions("POST", body, signal))).blob());

/** A picture at an address; null where there is none any more. */
export async function loadImage(path: string): Promise<ImageBitmap | null> {
  try {
    return await createImageBitmap(await (await ask(path)).blob());
  } catch {
    return null;
  }
}
