const POLL = 700;

/** Looks again every moment, as long as a run is on its way. A look that fails is made good by the next one. */
export function polling(runs: () => { state: string }[], look: () => Promise<void>): void {
  const working = $derived(runs().some((run) => run.state === "queued" || run.state === "running"));
  $effect(() => {
    if (!working) return;
    const timer = setInterval(() => void look().catch(() => {}), POLL);
    return () => clearInterval(timer);
  });
}
