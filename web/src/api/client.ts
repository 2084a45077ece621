/** An error as the API tells it: what is wrong and what to do. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly body: Record<string, unknown>,
  ) {
    super(message);
  }
}

interface More {
  headers?: Record<string, string>;
  /** Ends the request when nobody asks for the answer any more. */
  signal?: AbortSignal;
}

async function send<T>(
  method: string,
  path: string,
  body?: unknown,
  { headers, signal }: More = {},
): Promise<T> {
  const form = body instanceof FormData;
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      signal,
      headers: {
        'X-Wire-Kettle': '1',
        ...(body !== undefined && !form ? { 'Content-Type': 'application/json' } : {}),
        ...headers,
      },
      body: form ? body : body === undefined ? undefined : JSON.stringify(body),
    });
  } catch (e) {
    if (signal?.aborted) throw e;
    throw new ApiProblem(0, 'no-connection', 'The server does not answer. Is it running?', {});
  }
  const text = await response.text();
  const type = response.headers.get('content-type') ?? '';
  const parsed: unknown = text && type.includes('json') ? JSON.parse(text) : text;
  if (!response.ok) {
    const problem = (typeof parsed === 'object' && parsed !== null ? parsed : {}) as Record<string, unknown>;
    const code = String(problem.code ?? `http-${response.status}`);
    if (code === 'signed-out') window.dispatchEvent(new Event('signed-out'));
    throw new ApiProblem(response.status, code, String(problem.detail ?? response.statusText), problem);
  }
  return parsed as T;
}

export const api = {
  get: <T>(path: string, signal?: AbortSignal) => send<T>('GET', path, undefined, { signal }),
  post: <T>(path: string, body?: unknown, signal?: AbortSignal, headers?: Record<string, string>) =>
    send<T>('POST', path, body ?? {}, { signal, headers }),
  put: <T>(path: string, body: unknown, headers?: Record<string, string>) =>
    send<T>('PUT', path, body, { headers }),
  remove: <T>(path: string) => send<T>('DELETE', path),
  form: <T>(path: string, form: FormData) => send<T>('POST', path, form),
  upload: <T>(path: string, field: string, files: File[]) => {
    const form = new FormData();
    for (const file of files) form.append(field, file, file.name);
    return send<T>('POST', path, form);
  },
};

/** Returns a query string of the parameters that have a value. */
export function query(params: Record<string, string | number | boolean | undefined>): string {
  const search = new URLSearchParams();
  for (const [name, value] of Object.entries(params)) {
    if (value !== undefined && value !== '') search.set(name, String(value));
  }
  const text = search.toString();
  return text ? `?${text}` : '';
}
