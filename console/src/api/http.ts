/** Calls to the service: session cookie, CSRF token, and problems (RFC 9457) as exceptions. */

export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    detail: string,
    readonly hint: string,
    readonly members: Record<string, unknown> = {},
  ) {
    super(detail);
  }
}

type Query = Record<string, string | number | boolean | readonly string[] | undefined | null>;

/** `path` with its filters; what is empty is left out. */
export function withQuery(path: string, query: Query = {}): string {
  const given = new URLSearchParams();
  for (const [name, value] of Object.entries(query)) {
    if (value === undefined || value === null || value === "") continue;
    if (Array.isArray(value)) value.forEach((one: string) => given.append(name, one));
    else given.append(name, String(value));
  }
  const text = given.toString();
  return text ? `${path}?${text}` : path;
}

function csrfToken(): string {
  return /(?:^|; )inkwell_csrf=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

async function send<Answer>(method: string, path: string, body?: unknown): Promise<Answer> {
  const headers: Record<string, string> = { Accept: "application/json" };
  const form = body instanceof FormData;
  if (method !== "GET") headers["X-CSRFToken"] = csrfToken();
  if (body !== undefined && !form) headers["Content-Type"] = "application/json";
  let response: Response;
  try {
    response = await fetch(`/api/v1${path}`, {
      method,
      headers,
      credentials: "same-origin",
      body: body === undefined ? null : form ? body : JSON.stringify(body),
    });
  } catch {
    throw new Problem(0, "unreachable", "The service did not answer.", "See that it is running, then try again.");
  }
  if (!response.ok) throw await problemOf(response);
  const text = await response.text();
  return (text ? JSON.parse(text) : undefined) as Answer;
}

async function problemOf(response: Response): Promise<Problem> {
  try {
    const { code, detail, hint, ...members } = (await response.json()) as Record<string, string>;
    return new Problem(response.status, code ?? "error", detail ?? response.statusText, hint ?? "", members);
  } catch {
    return new Problem(response.status, "error", `The service answered with status ${response.status}.`, "Try again.");
  }
}

export const http = {
  get: <Answer>(path: string) => send<Answer>("GET", path),
  post: <Answer>(path: string, body?: unknown) => send<Answer>("POST", path, body),
  put: <Answer>(path: string, body?: unknown) => send<Answer>("PUT", path, body),
  patch: <Answer>(path: string, body: unknown) => send<Answer>("PATCH", path, body),
  delete: <Answer = undefined>(path: string) => send<Answer>("DELETE", path),
};
