/**
 * What a form holds once the server has answered a save: the saved values, except for fields that changed after they
 * were sent.
 */
export function rebased<T extends object>(now: T, sent: T, saved: T): T {
  const changed = Object.entries(now).filter(
    ([name, value]) => JSON.stringify(value) !== JSON.stringify(sent[name as keyof T]),
  );
  return { ...saved, ...Object.fromEntries(changed) };
}
