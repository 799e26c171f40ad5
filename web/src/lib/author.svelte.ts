const KEPT = "estrel-author";

/** Who is at this browser, as they say; told with what they save. */
class Author {
  name = $state(localStorage.getItem(KEPT) ?? "");

  set(name: string): void {
    this.name = name;
    localStorage.setItem(KEPT, name);
  }
}

export const author = new Author();
