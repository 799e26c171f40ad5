import type { Node } from "../audiences/definition";
import { answer, api, type Schemas } from "../lib/api/client";
import { said } from "../lib/toasts.svelte";

export type Grouping = Schemas["Grouping"];
export type Written = Schemas["GroupingWritten"];
/** A stretch of days with a name; without a first or a last day it goes on. */
export type Season = { name: string; from: string; to: string };
export const MOST = 12;

/** Whoever was first seen in these days. */
export function seen({ from, to }: Season): Node {
  return { seen: { window: { ...(from ? { from } : {}), ...(to ? { to } : {}) } } };
}

/** The seasons of groups that are nothing else; null where some are. */
export function seasonsOf(grouping: Grouping): Season[] | null {
  const seasons = grouping.groups.map(({ name, from, to }) => ({ name, from: from ?? "", to: to ?? "" }));
  return seasons.every(({ from, to }) => from || to) ? seasons : null;
}

/** Groups of one's own by which people are told apart, kept in the workspace. */
class Groupings {
  list = $state.raw<Grouping[]>([]);

  async load(): Promise<void> {
    try {
      this.list = (await answer(api.GET("/groupings"))).groupings;
    } catch {
      // People are told apart by everything else then.
    }
  }

  async add(written: Written): Promise<Grouping> {
    const kept = await answer(api.POST("/groupings", { body: written }));
    await this.load();
    return kept;
  }

  async change(id: number, written: Written): Promise<void> {
    await answer(api.PUT("/groupings/{id}", { params: { path: { id } }, body: written }));
    await this.load();
  }

  async remove({ id, name }: Grouping): Promise<void> {
    const params = { params: { path: { id } } };
    await answer(api.DELETE("/groupings/{id}", params));
    await this.load();
    said(`“${name}” has been deleted`, async () => {
      await answer(api.POST("/groupings/{id}/restore", params));
      await this.load();
    });
  }
}

export const groupings = new Groupings();
