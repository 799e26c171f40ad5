import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { user } from "../testing/editing";
import { keepFocus } from "./focus";
import { focusSentence, sentence } from "./sentence";

let end = () => {};
beforeEach(() => {
  document.body.innerHTML = `
    <main id="main" tabindex="-1">
      <p id="said">
        <button data-handle>move</button> People <button>who unlocked</button> <select aria-label="how often"><option>twice</option><option>often</option></select>
        <button>in the last week</button> <input aria-label="days" /> <button>by plan</button>
        <span class="panel"><button>in the panel</button></span>
      </p>
      <ol><li><button>Remove step 1</button></li><li><button>Remove step 2</button></li></ol>
      <button>Add a step</button>
    </main>`;
  end = sentence(document.getElementById("said")!);
});
afterEach(() => end());

const focused = () =>
  document.activeElement?.getAttribute("aria-label") ?? document.activeElement?.textContent;

const button = (text: string) =>
  [...document.querySelectorAll("button")].find((one) => one.textContent === text)!;

async function after(keys: string) {
  await user.keyboard(keys);
  return focused();
}

describe("a sentence by keyboard", () => {
  it("goes from phrase to phrase by arrow keys, past a list of choices without choosing, and not into what is open", async () => {
    focusSentence();
    expect(focused()).toBe("who unlocked");
    expect(await after("{ArrowRight}")).toBe("how often");
    expect(await after("{ArrowRight}")).toBe("in the last week");
    expect((document.querySelector("select") as HTMLSelectElement).value).toBe("twice");
    expect(await after("{End}")).toBe("by plan");
    expect(await after("{ArrowRight}")).toBe("by plan");
    expect(await after("{Home}{ArrowLeft}")).toBe("who unlocked");
    button("move").focus();
    expect(await after("{ArrowRight}i")).toBe("move");
  });

  it("jumps to the next phrase that begins with a letter, again from the first, and writes letters in fields", async () => {
    focusSentence();
    expect(await after("b")).toBe("by plan");
    expect(await after("i")).toBe("in the last week");
    expect(await after("i")).toBe("in the last week");
    expect(await after("t")).toBe("how often");
    expect(await after("o")).toBe("how often");
    expect(await after("b")).toBe("by plan");
    document.querySelector("input")!.focus();
    expect(await after("b")).toBe("days");
    expect(document.querySelector("input")!.value).toBe("b");
  });
});

describe("the focus", () => {
  beforeEach(() => {
    const before = end;
    const ends = keepFocus();
    end = () => (before(), ends());
  });

  const settled = (ms = 80) => new Promise((resolve) => setTimeout(resolve, ms));
  it("goes to the next step after one was removed, then to what adds one, and stays where it was put", async () => {
    button("Remove step 1").focus();
    button("Remove step 1").closest("li")!.remove();
    await settled();
    expect(focused()).toBe("Remove step 2");
    button("Remove step 2").closest("li")!.remove();
    await settled();
    expect(focused()).toBe("Add a step");
    button("by plan").focus();
    button("who unlocked").remove();
    await settled();
    expect(focused()).toBe("by plan");
  });

  it("comes back to a button that was disabled while it worked, and leaves one that stays so", async () => {
    const add = button("Add a step");
    const disable = () => {
      add.focus();
      add.blur(); // as browsers do a moment later
      add.disabled = true;
    };
    disable();
    await settled(200);
    expect(document.activeElement).toBe(document.body);
    add.disabled = false;
    await settled(800);
    expect(focused()).toBe("Add a step");
    disable();
    await settled(900);
    expect(focused()).toBe("Remove step 1");
  });
});
