/** The channels by which people can be reached, and how they are called. */
export const CHANNELS: [string, string][] = [
  ["email", "e-mail"],
  ["sms", "SMS"],
  ["push", "push message"],
];

export function channelName(channel: string): string {
  return CHANNELS.find(([key]) => key === channel)?.[1] ?? channel;
}
