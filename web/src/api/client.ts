/** Requests to the server; every refusal becomes an ApiError with a stable code and a sentence. */

export class ApiError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly details: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

export async function request<T>(path: string, options: RequestInit = {}): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, options);
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw new ApiError("aborted", "");
    throw new ApiError("offline", "Bisectum does not answer. Is it still running?");
  }
  if (answer.status === 204) return undefined as T;
  const text = await answer.text();
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch {
    throw new ApiError("unreadable", "The server's answer could not be read.");
  }
  if (!answer.ok) {
    const said = body as { code?: string; message?: string; details?: Record<string, unknown> };
    throw new ApiError(said.code ?? "http", said.message ?? answer.statusText, said.details);
  }
  return body as T;
}

/** What is sent on after its page has gone: browsers refuse it beyond 64 kB of all that is under way. */
const SENT_ON = 8_000;

export function sendJson<T>(method: string, path: string, body: unknown, signal?: AbortSignal): Promise<T> {
  const text = JSON.stringify(body);
  return request<T>(path, {
    method,
    body: text,
    headers: { "Content-Type": "application/json" },
    signal: signal ?? null,
    keepalive: method === "PUT" && text.length < SENT_ON,
  });
}
