/** What a sender needs to know. */
export type Options = {
  /** Where events go, for example "https://collect.example/events". */
  collector: string;
  /** The sending key of the source; it can send as the source and do nothing else. */
  key: string;
  /** The name of the source. */
  source: string;
  /** Whether nothing is sent for visitors who ask not to be tracked; true unless said otherwise. */
  respectDoNotTrack?: boolean;
  /** Milliseconds an event waits for others at most; 2000 unless said otherwise. */
  wait?: number;
  /** Told when the collector refuses events. */
  onRefused?: (reasons: string[]) => void;
};
export type Value = string | number | boolean | null | string[];
export type Data = Record<string, Value>;

const VISITOR = "estrel.visitor";
const CUSTOMER = "estrel.customer";
const EVENT = "estrel.event.";
/** Beyond so many waiting events the oldest are given up, so that the storage is never filled. */
const MOST = 1000;
const BATCH = 100;
const FIRST_PAUSE = 1000;
const LONGEST_PAUSE = 60_000;

function random(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) =>
    byte.toString(16).padStart(2, "0"),
  ).join("");
}

/**
 * Sends what a visitor does on a page to the collector.
 *
 * Every event is kept in the storage of the page's own site under a key of its own until the collector has it, so it
 * survives reloads and being offline, and several tabs do not get in each other's way. An event that is sent twice
 * counts once.
 */
class Sender {
  private options: Options;
  private silent: boolean;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private sending = false;
  private pause = FIRST_PAUSE;
  private serial = 0;

  constructor(options: Options) {
    this.options = options;
    const asked =
      navigator.doNotTrack === "1" || ("globalPrivacyControl" in navigator && navigator.globalPrivacyControl);
    this.silent = options.respectDoNotTrack !== false && !!asked;
    if (this.silent) {
      this.forget();
      return;
    }
    addEventListener("online", () => void this.flush());
    addEventListener("pagehide", () => void this.flush(true));
    void this.flush();
  }

  /** The visitor identifier of this browser; empty where nothing is sent. */
  get visitor(): string {
    if (this.silent) return "";
    const known = localStorage.getItem(VISITOR);
    if (known) return known;
    const made = random();
    localStorage.setItem(VISITOR, made);
    return made;
  }

  /** The visitor, or who has signed in, did something. */
  did(type: string, data: Data = {}): void {
    this.put(type, data, localStorage.getItem(CUSTOMER) ?? `visitor:${this.visitor}`);
  }

  /** Says that this visitor is a customer, "customer:1042"; what follows is the customer's. */
  signedIn(customer: string): void {
    if (this.silent) return;
    if (localStorage.getItem(CUSTOMER) !== customer) this.put("estrel.link", { same_as: customer });
    localStorage.setItem(CUSTOMER, customer);
  }

  /** What follows is the visitor's again. */
  signedOut(): void {
    localStorage.removeItem(CUSTOMER);
  }

  /** Sets attributes of the visitor or of who has signed in. */
  is(attributes: Data): void {
    this.did("estrel.attributes", attributes);
  }

  /** Sends what waits. */
  async flush(leaving = false): Promise<void> {
    if (this.silent || (this.sending && !leaving)) return;
    clearTimeout(this.timer);
    this.timer = undefined;
    const keys = this.waiting().slice(0, BATCH);
    if (!keys.length) return;
    this.sending = true;
    const next = await this.send(keys, leaving);
    this.sending = false;
    if (this.waiting().length) this.later(next);
  }

  /** Leaves nothing behind in the browser of who asks not to be tracked. */
  private forget(): void {
    for (const key of [VISITOR, CUSTOMER, ...this.waiting()]) localStorage.removeItem(key);
  }

  private put(type: string, data: Data, subject = `visitor:${this.visitor}`): void {
    if (this.silent) return;
    const event = {
      specversion: "1.0",
      id: random(),
      source: this.options.source,
      type,
      subject,
      time: new Date().toISOString(),
      data,
    };
    const keys = this.waiting();
    for (const key of keys.slice(0, Math.max(0, keys.length - MOST + 1))) localStorage.removeItem(key);
    const place = `${Date.now().toString().padStart(15, "0")}.${String(this.serial++).padStart(6, "0")}.${event.id}`;
    localStorage.setItem(EVENT + place, JSON.stringify(event));
    if (keys.length + 1 >= BATCH) void this.flush();
    else if (!this.timer && !this.sending) this.later(this.options.wait ?? 2000);
  }

  private later(milliseconds: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.flush(), milliseconds);
  }

  /** The keys of waiting events, oldest first. */
  private waiting(): string[] {
    return Object.keys(localStorage)
      .filter((key) => key.startsWith(EVENT))
      .sort();
  }

  /** Milliseconds until it is worth trying again. What was taken or refused for good is not kept. */
  private async send(keys: string[], leaving: boolean): Promise<number> {
    const body = `[${keys.map((key) => localStorage.getItem(key)).filter(Boolean)}]`;
    try {
      const answer = await fetch(this.options.collector, {
        method: "POST",
        keepalive: leaving,
        headers: {
          authorization: `Bearer ${this.options.key}`,
          "content-type": "application/cloudevents-batch+json",
        },
        body,
      });
      if (answer.status === 429 || answer.status === 401 || answer.status >= 500)
        return this.backOff(Number(answer.headers.get("retry-after")) * 1000);
      for (const key of keys) localStorage.removeItem(key);
      this.pause = FIRST_PAUSE;
      await this.report(answer);
      return 0;
    } catch {
      return this.backOff(0);
    }
  }

  private backOff(asked: number): number {
    const pause = Math.max(asked || 0, this.pause * (0.5 + Math.random()));
    this.pause = Math.min(this.pause * 2, LONGEST_PAUSE);
    return pause;
  }

  private async report(answer: Response): Promise<void> {
    if (!this.options.onRefused) return;
    const told = await answer.json();
    const reasons = (told.events ?? [{ reason: told.detail }]).map(
      (event: { reason?: string }) => event.reason,
    );
    if (reasons.some(Boolean)) this.options.onRefused(reasons.filter(Boolean));
  }
}

/** Begins to send; see docs/sending.md. */
export function sender(options: Options): Sender {
  return new Sender(options);
}
