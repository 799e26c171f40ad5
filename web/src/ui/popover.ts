/** Apart, so that it is loaded when the first panel opens. */
export { Popover } from "@skeletonlabs/skeleton-svelte";
