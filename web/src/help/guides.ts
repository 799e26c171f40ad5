/** The guides, by the names of their files. */
export const GUIDES = [
  ["import-formats", "Import files"],
  ["sending", "Send events"],
  ["identity", "Identity resolution"],
  ["audiences", "Audiences"],
  ["lifecycle", "Lifecycle"],
  ["exports", "Exports"],
  ["webhooks", "Webhooks"],
  ["campaigns", "Campaigns"],
  ["settings", "Settings"],
  ["access", "Accounts and access"],
] as const;

const FILES = import.meta.glob<string>("../../../docs/*.md", { query: "?raw", import: "default" });

/** A guide as HTML; links to other guides lead to them here. */
export async function guide(name: string): Promise<string> {
  const [{ marked }, text] = await Promise.all([import("marked"), FILES[`../../../docs/${name}.md`]!()]);
  const here = text.replace(/\]\((?:\.\/)?([a-z-]+)\.md(#[a-z-]+)?\)/g, (whole, file: string) =>
    GUIDES.some(([key]) => key === file) ? `](/help/${file})` : whole.replace(/\]\(.*\)/, "]"),
  );
  return marked.parse(here.replace(/!\[[^\]]*\]\([^)]*\)/g, ""), { async: false });
}
