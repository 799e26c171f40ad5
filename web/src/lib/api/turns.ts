/** What may take the server seconds; it answers two of these at a time for an account, and refuses more with 429. */
const HEAVY = /\/api\/(analyses\/|audiences\/(preview|sample|trend|movement|why)$|exports\/try)/;
const AT_A_TIME = 2;

const waiting: (() => void)[] = [];
let underWay = 0;

/** Waits until one more heavy question may be asked; gives what ends its turn. */
async function turn(signal: AbortSignal): Promise<() => void> {
  if (underWay < AT_A_TIME) underWay += 1;
  else
    await new Promise<void>((resolve, reject) => {
      const giveUp = () => {
        waiting.splice(waiting.indexOf(resume), 1);
        reject(signal.reason as Error);
      };
      const resume = () => {
        signal.removeEventListener("abort", giveUp);
        resolve();
      };
      signal.addEventListener("abort", giveUp, { once: true });
      waiting.push(resume);
    });
  let ended = false;
  return () => {
    if (ended) return;
    ended = true;
    const next = waiting.shift();
    if (next) next();
    else underWay -= 1;
  };
}

function pause(seconds: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(resolve, seconds * 1000);
    signal.addEventListener("abort", () => (clearTimeout(timer), reject(signal.reason as Error)), {
      once: true,
    });
  });
}

/**
 * Fetches as `fetch` does. Heavy questions wait for each other, and for those of other tabs: what the server refuses for
 * now is asked again after the time that it names.
 */
export async function fetchInTurn(request: Request): Promise<Response> {
  if (!HEAVY.test(new URL(request.url).pathname)) return fetch(request);
  if (request.signal.aborted) throw request.signal.reason;
  const end = await turn(request.signal);
  try {
    for (;;) {
      const response = await fetch(request.clone());
      const again = response.status === 429 && Number(response.headers.get("retry-after"));
      if (!again) return withEnd(response, end);
      await pause(again, request.signal);
    }
  } catch (error) {
    end();
    throw error;
  }
}

/** The turn ends when the response has been read, or is given up. */
function withEnd(response: Response, end: () => void): Response {
  if (!response.body) {
    end();
    return response;
  }
  const reader = response.body.getReader();
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      try {
        const { value, done } = await reader.read();
        if (value) controller.enqueue(value);
        if (!done) return;
        end();
        controller.close();
      } catch (error) {
        end();
        controller.error(error);
      }
    },
    async cancel(reason) {
      end();
      await reader.cancel(reason);
    },
  });
  const { status, statusText, headers } = response;
  return new Response(body, { status, statusText, headers });
}
