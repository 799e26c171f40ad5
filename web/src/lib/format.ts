const wholeNumber = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 0 });
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

export function number(value: number): string {
  return wholeNumber.format(value);
}

export function signed(value: number): string {
  if (value === 0) return "±0";
  return `${value > 0 ? "+" : "−"}${number(Math.abs(value))}`;
}

/** A share as per cent; one that is small but not nothing keeps a decimal. */
export function percent(share: number): string {
  const value = Math.round(share * 1000) / 10;
  if (share > 0 && value === 0) return "< 0.1%";
  return `${value > 0 && value < 10 ? value : Math.round(share * 100)}%`;
}

/** A share as per cent on an axis: "0%", "2.6%", "40%". */
export function fine(share: number): string {
  return `${(share * 100).toFixed(share > 0 && share < 0.1 ? 1 : 0)}%`;
}

/** How many times as many as by chance: "2.3 ×". */
export function times(lift: number | null): string {
  return lift === null ? "–" : `${lift.toFixed(lift < 10 ? 1 : 0)} ×`;
}

/** A number with at least and at most so many decimals: "1,234.50". */
export function decimals(value: number, least: number, most: number): string {
  const options = { minimumFractionDigits: least, maximumFractionDigits: most };
  return new Intl.NumberFormat("en-GB", options).format(value).replace("-", "−");
}

/** A rate, which may be small: three decimals, or two figures that tell; one decimal from a hundred on. */
export function rate(value: number): string {
  if (value === 0) return "0";
  const size = Math.abs(value);
  if (size >= 100) return decimals(value, 1, 1).replace("-", "−");
  const figure = size.toFixed(size >= 0.1 ? 3 : Math.min(12, 1 - Math.floor(Math.log10(size))));
  return `${value < 0 ? "−" : ""}${figure}`;
}

/** "1.06" */
export function ratio(value: number): string {
  return value.toFixed(2);
}

/** By what share something grew: "+12%", "−3.1%". */
export function growth(share: number): string {
  return `${share > 0 ? "+" : share < 0 ? "−" : "±"}${percent(Math.abs(share))}`;
}

/** "1 day", "2.5 days", "1,200 days" */
export function days(count: number): string {
  return Number.isInteger(count) ? plural(count, "day") : `${count.toFixed(1)} days`;
}

/** A difference of shares in percentage points: "+3.1". */
export function points(difference: number): string {
  const value = (Math.abs(difference) * 100).toFixed(1);
  return value === "0.0" ? "0.0" : `${difference > 0 ? "+" : "−"}${value}`;
}

/** "2026-05-03" → "3 May 2026" */
export function day(iso: string | null | undefined): string {
  return iso ? `${Number(iso.slice(8, 10))} ${month(iso)} ${iso.slice(0, 4)}` : "–";
}

/** The month of a date: "Sep". */
export function month(iso: string): string {
  return MONTHS[Number(iso.slice(5, 7)) - 1]!;
}

/** An instant in a time zone: "07:33:30". */
export function clock(iso: string, timeZone: string): string {
  return new Intl.DateTimeFormat("en-GB", { timeStyle: "medium", timeZone }).format(new Date(iso));
}

/** An instant in a time zone: "3 May 2026, 07:33". */
export function moment(iso: string, timeZone: string): string {
  const parts = new Intl.DateTimeFormat("en-CA", { dateStyle: "short", timeZone }).format(new Date(iso));
  const time = new Intl.DateTimeFormat("en-GB", { timeStyle: "short", timeZone }).format(new Date(iso));
  return `${day(parts)}, ${time}`;
}

export function addDays(iso: string, days: number): string {
  const date = new Date(`${iso}T00:00:00Z`);
  date.setUTCDate(date.getUTCDate() + days);
  return date.toISOString().slice(0, 10);
}

export function daysBetween(from: string, to: string): number {
  return Math.round((Date.parse(`${to}T00:00:00Z`) - Date.parse(`${from}T00:00:00Z`)) / 86_400_000);
}

export function bytes(count: number): string {
  if (count < 1000) return `${count} B`;
  if (count < 1_000_000) return `${(count / 1000).toFixed(1)} kB`;
  return `${(count / 1_000_000).toFixed(1)} MB`;
}

/** Seconds in the largest units that say enough: "3 days", "2 h 10 min", "45 s". */
export function duration(seconds: number): string {
  if (seconds < 59.5) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${minutes} min`;
  if (seconds < 172_800) return `${Math.floor(minutes / 60)} h${minutes % 60 ? ` ${minutes % 60} min` : ""}`;
  return plural(Math.floor(seconds / 86_400), "day");
}

/** The value of an attribute or a property. */
export function shown(value: unknown): string {
  if (value === null || value === undefined) return "not set";
  if (Array.isArray(value)) return value.join(", ");
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}

/** "app, kiosk and web" */
export function list(words: string[]): string {
  return words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`;
}

export function plural(count: number, one: string, many = `${one}s`): string {
  return `${number(count)} ${count === 1 ? one : many}`;
}

const SHOWN = 60;

/** At most 60 characters of a text, as findings show values. */
export function shortened(text: string): string {
  const letters = [...text];
  return letters.length > SHOWN
    ? `${letters
        .slice(0, SHOWN - 1)
        .join("")
        .trimEnd()}…`
    : text;
}
