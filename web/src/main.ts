import "./fonts.css";
import "./app.css";
import { mount } from "svelte";
import App from "./App.svelte";

/** A script that takes longer to arrive comes over a slow line, milliseconds. */
const SLOW = 1_000;
/** By then the first answers have arrived on a slow line too, milliseconds. */
const SETTLED = 8_000;

// A slow line brings the first answer before the fonts: this visit uses the system's, and the next finds ours in the cache.
const script = performance.getEntriesByName(import.meta.url)[0];
if (script && script.duration > SLOW) {
  document.documentElement.classList.add("slow");
  setTimeout(() => document.fonts.forEach((font) => void font.load().catch(() => {})), SETTLED);
}

const target = document.getElementById("app")!;
target.replaceChildren();
mount(App, { target });
