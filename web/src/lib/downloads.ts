import { csv } from "./csv";

export type Row = Record<string, string | number | boolean | null>;

function link(type: string, text: string): string {
  return `data:${type};charset=utf-8,${encodeURIComponent(text)}`;
}

/** A table as the link of a CSV file; the names of the columns are those of the first row. */
export function csvOf(rows: Row[]): string {
  const names = Object.keys(rows[0] ?? {});
  const cell = (value: Row[string] | undefined) =>
    typeof value === "boolean" ? String(value) : (value ?? null);
  return link("text/csv", csv([names, ...rows.map((row) => names.map((name) => cell(row[name])))]));
}

/** A table as the link of a JSON Lines file. */
export function jsonLinesOf(rows: Row[]): string {
  return link("application/jsonl", rows.map((row) => `${JSON.stringify(row)}\n`).join(""));
}

/** What stands over a picture that leaves the application. */
export type Caption = { title: string; lines: string[] };

const STYLES = [
  "fill",
  "fill-opacity",
  "stroke",
  "stroke-width",
  "stroke-opacity",
  "stroke-dasharray",
  "stroke-linecap",
  "stroke-linejoin",
  "opacity",
  "font-family",
  "font-size",
  "font-weight",
  "text-anchor",
  "paint-order",
];
const PAD = 24;
const LINE = 20;
const SPACE = "http://www.w3.org/2000/svg";

/** Writes into a copy what the page's styles make of the original. */
function settle(original: Element, copy: Element): void {
  const style = getComputedStyle(original);
  for (const name of STYLES) {
    const value = style.getPropertyValue(name);
    if (value) (copy as SVGElement).style.setProperty(name, value);
    copy.removeAttribute(name);
  }
  copy.removeAttribute("class");
  [...original.children].forEach((child, index) => settle(child, copy.children[index]!));
}

/** What is filled with a pattern of the page needs the pattern in the file. */
function patterns(copy: SVGElement): SVGDefsElement {
  const defs = document.createElementNS(SPACE, "defs");
  const names = new Set(
    [...new XMLSerializer().serializeToString(copy).matchAll(/url\((?:&quot;|"|')?#([\w-]+)/g)].map(
      (found) => found[1]!,
    ),
  );
  for (const name of names) {
    const original = document.getElementById(name);
    if (!original) continue;
    const pattern = original.cloneNode(true) as Element;
    settle(original, pattern);
    defs.append(pattern);
  }
  return defs;
}

function wrapped(text: string, most: number): string[] {
  return text.split(" ").reduce<string[]>((lines, word) => {
    const last = lines.at(-1);
    if (last !== undefined && last.length + word.length < most) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
    return lines;
  }, []);
}

const FONTS = /latin-(400|600)-normal[^"]*\.woff2/;
let fonts: Promise<string> | null = null;

/** The page's fonts in their upright Latin letters, as rules that a file can carry. */
async function carriedFonts(): Promise<string> {
  const rules = [...document.styleSheets].flatMap((sheet) => [...sheet.cssRules]);
  const written = rules
    .filter((rule) => rule instanceof CSSFontFaceRule)
    .map(async ({ style, parentStyleSheet }) => {
      const url = /url\("?([^")]+)"?\)/.exec(style.getPropertyValue("src"))?.[1] ?? "";
      if (!FONTS.test(url)) return "";
      const font = await fetch(new URL(url, parentStyleSheet?.href ?? location.href));
      const bytes = Array.from(new Uint8Array(await font.arrayBuffer()), (byte) => String.fromCharCode(byte));
      const [family, weight] = ["font-family", "font-weight"].map((name) => style.getPropertyValue(name));
      const data = `data:font/woff2;base64,${btoa(bytes.join(""))}`;
      return `@font-face{font-family:${family};font-weight:${weight};src:url(${data})}`;
    });
  return (await Promise.all(written)).join("");
}

/** A picture as an SVG document of its own, with its caption over it. */
export async function pictureOf(
  svg: SVGSVGElement,
  caption: Caption,
): Promise<{ text: string; width: number; height: number }> {
  const box = svg.viewBox.baseVal;
  const width = box.width || svg.clientWidth;
  const height = box.height || svg.clientHeight;
  const lines = caption.lines.flatMap((line) => wrapped(line, Math.floor(width / 7.5)));
  const top = PAD + 28 + lines.length * LINE + 12;
  const page = document.createElementNS(SPACE, "svg");
  const whole = { width: width + 2 * PAD, height: height + top + PAD };
  page.setAttribute("xmlns", SPACE);
  page.setAttribute("viewBox", `0 0 ${whole.width} ${whole.height}`);
  page.setAttribute("width", String(whole.width));
  page.setAttribute("height", String(whole.height));
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  const paper = document.createElementNS(SPACE, "rect");
  paper.setAttribute("width", "100%");
  paper.setAttribute("height", "100%");
  paper.setAttribute("fill", colour("--paper"));
  const copy = svg.cloneNode(true) as SVGSVGElement;
  settle(svg, copy);
  copy.setAttribute("x", String(PAD));
  copy.setAttribute("y", String(top));
  copy.setAttribute("width", String(width));
  copy.setAttribute("height", String(height));
  const said = [caption.title, ...lines].map((line, index) => {
    const text = document.createElementNS(SPACE, "text");
    text.setAttribute("x", String(PAD));
    text.setAttribute("y", String(PAD + 16 + (index ? 8 : 0) + index * LINE));
    text.setAttribute("fill", colour(index ? "--ink-soft" : "--ink"));
    text.setAttribute("font-family", index ? "Atkinson Hyperlegible Next, sans-serif" : "Literata, serif");
    text.setAttribute("font-size", index ? "13" : "18");
    if (!index) text.setAttribute("font-weight", "600");
    text.textContent = line;
    return text;
  });
  const sheet = document.createElementNS(SPACE, "style");
  sheet.textContent = await (fonts ??= carriedFonts().catch(() => ""));
  page.append(sheet, patterns(copy), paper, ...said, copy);
  return { text: new XMLSerializer().serializeToString(page), ...whole };
}

/** Hands a file to the browser. */
export function save(name: string, content: Blob): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** The same picture as a PNG, at twice its size. */
export async function pngOf(picture: { text: string; width: number; height: number }): Promise<Blob> {
  const image = new Image();
  image.src = link("image/svg+xml", picture.text);
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = picture.width * 2;
  canvas.height = picture.height * 2;
  canvas.getContext("2d")!.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (blob) => (blob ? resolve(blob) : reject(new Error("the image could not be created"))),
      "image/png",
    ),
  );
}
