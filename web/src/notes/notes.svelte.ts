import { answer, api, type Schemas } from "../lib/api/client";
import { addDays } from "../lib/format";
import { said } from "../lib/toasts.svelte";

export type Note = Schemas["Annotation"];
export type Written = Schemas["AnnotationWritten"];
type Happened = Schemas["Annotations"]["happened"][number];
export type Kind = "note" | Happened["kind"];
export type Days = { from: string; to: string };
/** What can be drawn on pictures over time, and what it is called. */
export const KINDS: Record<Kind, string> = { note: "notes", export: "exports", rules: "rule changes" };
const HIDDEN = "estrel-notes-hidden";

/** Something at a place of a picture: a note that can be changed, or what happened by itself. */
export type Mark = { date: string; text: string; kind: Kind; note: Note | null };

/** The days up to each of some dates, one after the other, from the day after the one before. */
export function upTo(dates: string[]): Days[] {
  return dates.map((to, at) => ({ from: at ? addDays(dates[at - 1]!, 1) : to, to }));
}

/** What is noted on dates, and what happened on them; which kinds are drawn is remembered. */
class Notes {
  list = $state.raw<Note[]>([]);
  happened = $state.raw<Happened[]>([]);
  hidden = $state.raw<Kind[]>((localStorage.getItem(HIDDEN) ?? "").split(" ").filter(Boolean) as Kind[]);

  async load(): Promise<void> {
    try {
      const found = await answer(api.GET("/annotations"));
      this.list = found.annotations;
      this.happened = found.happened;
    } catch {
      // Pictures are drawn without notes then.
    }
  }

  switched(kind: Kind): void {
    this.hidden = this.hidden.includes(kind)
      ? this.hidden.filter((one) => one !== kind)
      : [...this.hidden, kind];
    localStorage.setItem(HIDDEN, this.hidden.join(" "));
  }

  /** All there is, in order of time, whether it is drawn or not. */
  get all(): Mark[] {
    const notes = this.list.map((note) => ({ ...note, kind: "note" as const, note }));
    return [...notes, ...this.happened.map((one) => ({ ...one, note: null }))]
      .map(({ date, text, kind, note }) => ({ date, text, kind, note }))
      .sort((one, other) => one.date.localeCompare(other.date));
  }

  /** What is drawn at each of some stretches of days. */
  at(days: Days[]): Mark[][] {
    const drawn = this.all.filter(({ kind }) => !this.hidden.includes(kind));
    return days.map(({ from, to }) => drawn.filter(({ date }) => date >= from && date <= to));
  }

  async add(written: Written): Promise<void> {
    await answer(api.POST("/annotations", { body: written }));
    await this.load();
  }

  async change(id: number, written: Written): Promise<void> {
    await answer(api.PUT("/annotations/{id}", { params: { path: { id } }, body: written }));
    await this.load();
  }

  async remove(note: Note): Promise<void> {
    await answer(api.DELETE("/annotations/{id}", { params: { path: { id: note.id } } }));
    await this.load();
    const { date, text, private: hidden } = note;
    said("Note deleted", () => void this.add({ date, text, private: hidden }));
  }
}

export const notes = new Notes();
