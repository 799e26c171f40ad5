import { FormDraft } from "./formDraft";

/**
 * The fields of a form, kept by this tab from the first change until they are saved or given up. Must be made while a
 * component is set up.
 */
export class Form<T extends object> {
  fields = $state() as T;
  /** Whether the fields are those of a draft that was kept. */
  readonly restored: boolean;
  private saved = $state.raw() as T;
  private readonly draft: FormDraft<T>;

  /**
   * @param name what the form is of, "source-3"
   * @param saved the fields as they are saved, or those of a new form
   * @param options.secret fields that the browser does not keep
   * @param options.anew whether a draft that was kept is left out
   */
  constructor(
    name: string,
    saved: T,
    { secret = [], anew = false }: { secret?: (keyof T)[]; anew?: boolean } = {},
  ) {
    this.draft = new FormDraft<T>(name);
    const kept = anew ? null : this.draft.read(saved);
    this.restored = kept !== null;
    this.saved = $state.snapshot(saved) as T;
    this.fields = kept ?? ($state.snapshot(saved) as T);
    $effect(() => {
      const hidden = Object.fromEntries(secret.map((field) => [field, this.saved[field]]));
      this.draft.keep({ ...($state.snapshot(this.fields) as T), ...hidden }, this.saved);
    });
  }

  /** Resets the form after the user has saved it or given it up. */
  end(saved: T = this.saved): void {
    this.saved = $state.snapshot(saved) as T;
    this.fields = $state.snapshot(saved) as T;
    this.draft.forget();
  }

  /** Whether a draft of a form is kept, so that it is opened again. */
  static kept(name: string): boolean {
    return new FormDraft(name).exists;
  }
}
