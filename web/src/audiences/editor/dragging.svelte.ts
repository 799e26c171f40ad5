/** The place of the condition that is being dragged, if any. */
class Dragging {
  place = $state<string | null>(null);
}

export const dragging = new Dragging();
