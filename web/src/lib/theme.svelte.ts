/** Light or dark: as the system prefers, until somebody chooses. */
class Theme {
  mode = $state<"light" | "dark">("light");

  constructor() {
    const preference = matchMedia("(prefers-color-scheme: dark)");
    const chosen = localStorage.getItem("estrel-mode");
    this.apply(chosen === "dark" || (chosen === null && preference.matches) ? "dark" : "light");
    preference.addEventListener("change", () => {
      if (localStorage.getItem("estrel-mode") === null) this.apply(preference.matches ? "dark" : "light");
    });
  }

  toggle(): void {
    this.apply(this.mode === "dark" ? "light" : "dark");
    localStorage.setItem("estrel-mode", this.mode);
  }

  private apply(mode: "light" | "dark"): void {
    this.mode = mode;
    document.documentElement.dataset.mode = mode;
  }
}

export const theme = new Theme();
