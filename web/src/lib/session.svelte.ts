import { answer, api, onRefusal, problemOf, type Problem, type Schemas } from "./api/client";

type Role = NonNullable<Schemas["Account"]["role"]>;
const ROLES: Role[] = ["viewer", "analyst", "administrator"];

/** Who is signed in. */
class Session {
  /** Null until it is known. */
  known = $state.raw<Schemas["Session"] | null>(null);
  problem = $state<Problem | null>(null);

  constructor() {
    onRefusal((problem) => {
      if (problem.status === 401 && this.known?.account) this.known = { ...this.known, account: null };
    });
  }

  get account(): Schemas["Account"] | null {
    return this.known?.account ?? null;
  }

  /** Whether who is signed in may do what the role may. */
  may(role: Role): boolean {
    const own = this.account?.role;
    return own != null && ROLES.indexOf(own) >= ROLES.indexOf(role);
  }

  async load(): Promise<void> {
    await this.take(() => answer(api.GET("/session")));
  }

  /** Signs in one way or another; tells whether it worked. */
  async take(way: () => Promise<Schemas["Session"]>): Promise<boolean> {
    this.problem = null;
    try {
      this.known = await way();
      return true;
    } catch (error) {
      this.problem = problemOf(error);
      return false;
    }
  }

  async leave(): Promise<void> {
    await this.take(() => answer(api.DELETE("/session")));
  }
}

export const session = new Session();
