import "./fonts.css";
import "./app.css";
import { mount } from "svelte";
import App from "./App.svelte";

/** How long after the start of a visit fonts still arrive before the first text, milliseconds. */
const SOON = 1_500;
/** When the first answers have arrived on a slow line, too, milliseconds. */
const SETTLED = 8_000;

// Fonts that arrive after the text are not used. On a slow line they wait for the next visit, for which they are fetched.
if (performance.now() > SOON) {
  document.documentElement.classList.add("slow");
  setTimeout(() => document.fonts.forEach((font) => void font.load().catch(() => {})), SETTLED);
}

const target = document.getElementById("app")!;
target.replaceChildren();
mount(App, { target });
