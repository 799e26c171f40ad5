/** Whether the list of keyboard shortcuts is open. */
export const shortcuts = $state({ open: false });
