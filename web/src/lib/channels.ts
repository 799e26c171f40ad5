/** The channels by which people can be reached, and how they are called. */
export const CHANNELS: [string, string][] = [
  ["email", "email"],
  ["sms", "SMS"],
  ["push", "push"],
];

export function channelName(channel: string): string {
  return CHANNELS.find(([key]) => key === channel)?.[1] ?? channel;
}
