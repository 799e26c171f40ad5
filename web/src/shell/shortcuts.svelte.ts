const OFF = "estrel-shortcuts-off";

/** The single-key shortcuts: whether they are on, and whether the list of them is open or ever was. */
class Shortcuts {
  #on = $state(localStorage.getItem(OFF) === null);
  #open = $state(false);
  wanted = $state(false);

  get on(): boolean {
    return this.#on;
  }

  set on(on: boolean) {
    this.#on = on;
    if (on) localStorage.removeItem(OFF);
    else localStorage.setItem(OFF, "1");
  }

  get open(): boolean {
    return this.#open;
  }

  set open(open: boolean) {
    this.#open = open;
    this.wanted ||= open;
  }
}

export const shortcuts = new Shortcuts();
