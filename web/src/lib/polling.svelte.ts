const POLL = 700;

/** Looks again every moment, as long as a run is on its way. */
export function polling(runs: () => { state: string }[], look: () => Promise<void>): void {
  const working = $derived(runs().some((run) => run.state === "queued" || run.state === "running"));
  $effect(() => {
    if (!working) return;
    const timer = setInterval(() => void look(), POLL);
    return () => clearInterval(timer);
  });
}
