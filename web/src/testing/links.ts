/** What a link to people or to an audience asks for: the conditions that all hold. */
export function meant(link: Element): unknown[] {
  const address = link.getAttribute("href") ?? link.getAttribute("xlink:href")!;
  const definition = new URL(address, location.href).searchParams.get("definition")!;
  return (JSON.parse(definition) as { all: unknown[] }).all;
}
