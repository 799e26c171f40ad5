/** Whether the list of keyboard shortcuts is open, and whether it ever was. */
class Shortcuts {
  #open = $state(false);
  wanted = $state(false);

  get open(): boolean {
    return this.#open;
  }

  set open(open: boolean) {
    this.#open = open;
    this.wanted ||= open;
  }
}

export const shortcuts = new Shortcuts();
