import type { Node, Selection } from "../definition";
import type { Option } from "../editor/Choice.svelte";

/** What a sentence can go on with, by what it is about. */
export const ABOUT = {
  who: "who they are",
  what: "what they did",
  state: "their state",
} as const;
export type About = keyof typeof ABOUT;

/** One way to begin with a condition. */
export type Offer = {
  about: About;
  text: string;
  /** Whether it is offered before the menu is opened. */
  first?: boolean;
  /** What is chosen before there is a condition: whose title, and what there is to choose. */
  ask: string;
  options: () => Promise<Option[]> | Option[];
  /** A complete new condition about what has been chosen. */
  begin: (chosen: string) => Promise<Node> | Node;
  /** The phrase that is opened then, by its name and, where there are several of that name, its path. */
  then?: string;
  thenAt?: string;
};

/**
 * One kind of condition: how it is begun, which phrases are its own, and what can be done to it. It stands in one file
 * with the editor of its phrases, which is given {@link PhraseProps}.
 */
export type Condition = {
  /** By which it stands in definitions. */
  keys: (keyof Node)[];
  offers: Offer[];
  /** Its own phrases with their titles, by the names that the server's sentence gives them. */
  phrases?: Record<string, string>;
  /** The paths of everything that says which events are meant. */
  selections?: (node: Node) => string[];
  /** The paths of what says at which event further conditions may hold, and no others. */
  moments?: (node: Node) => ("first" | "last")[];
  /** What can be done to it besides changing its phrases. */
  actions?: (node: Node, next: Selection) => { text: string; node: Node }[];
  /** Its opposite, where that is not simply what it does not hold for. */
  opposite?: (node: Node) => Node | null;
};

/** What the editor of a condition's phrases is given. */
export type PhraseProps<T> = {
  /** Which of its phrases. */
  slot: string;
  /** Where the piece that the phrase says stands in the condition. */
  path: string;
  piece: T;
  node: Node;
  /** Puts another piece there. */
  put(piece: T): void;
  /** Puts another condition in its place. */
  change: (node: Node) => void;
  /** Leaves the piece out. */
  drop: () => void;
  close: () => void;
};
