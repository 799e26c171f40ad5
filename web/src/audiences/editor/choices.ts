import { answer, api } from "../../lib/api/client";
import { number } from "../../lib/format";
import { recent } from "../../lib/recent";
import { workspace } from "../../lib/workspace.svelte";
import type { Option } from "./Choice.svelte";

/** Event types to choose from: those chosen last, then the most frequent; hidden and misspelt ones come last. */
export function eventOptions(): Option[] {
  const types = workspace.catalogue?.event_types ?? [];
  const offered = types.filter((type) => !type.hidden).toSorted((one, other) => other.count - one.count);
  const misspelt = Object.entries(workspace.catalogue?.aliases ?? {}).map(([name, target]) => ({
    value: target,
    text: name,
    note: `read as ${target}`,
  }));
  return [
    ...lately(offered, recent("event")).map(optionOf),
    ...types.filter((type) => type.hidden).map((type) => ({ ...optionOf(type), note: "hidden" })),
    ...misspelt,
  ];
}

function optionOf(type: { name: string; noun: string; description?: string; count: number }): Option {
  return { value: type.name, text: type.noun, note: number(type.count), find: type.description };
}

export function attributeOptions(): Option[] {
  return lately(workspace.catalogue?.attributes ?? [], recent("attribute")).map((field) => ({
    value: field.name,
    text: field.display,
    note: field.type,
  }));
}

export async function audienceOptions(): Promise<Option[]> {
  const found = await answer(api.GET("/audiences", { params: { query: { as_of: workspace.asOf } } }));
  return found.audiences.map((row) => ({
    value: String(row.id),
    text: row.name,
    note: row.size === null ? undefined : number(row.size),
    find: row.sentence,
  }));
}

/** With those chosen last at the head. */
function lately<T extends { name: string }>(all: T[], names: string[]): T[] {
  const head = names.flatMap((name) => all.filter((one) => one.name === name));
  return [...head, ...all.filter((one) => !names.includes(one.name))];
}
