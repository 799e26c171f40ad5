import type { Schemas } from "../lib/api/client";
import type { Campaign as Condition, Node } from "../audiences/definition";
import { channelName } from "../lib/channels";
import { campaignName } from "../lib/names";

export type Campaign = Schemas["Campaign"];
export type Point = Schemas["ResponseStreaksPicture"]["points"][number];
export type Band = Schemas["ResponseStreaksPicture"]["bands"][number];

/** The messages of one campaign by one channel, or of none, as a condition has them. */
export function messagesOf(row: { campaign: string | null; channel: string | null }): Partial<Condition> {
  return {
    ...(row.campaign ? { name: row.campaign } : { without_name: true }),
    ...(row.channel ? { channel: row.channel } : { without_channel: true }),
  };
}

/** Which campaign, by which channel, a row of a table is about. */
export function campaignOf(row: Schemas["AnalysisTable"]["rows"][number]) {
  const sent = row.cells.messages?.campaign as { name?: string; channel?: string } | undefined;
  return { campaign: sent?.name ?? null, channel: sent?.channel ?? null };
}

/** How a campaign stands in the address: "email/Spring", or "/" for one without a channel and a name. */
export function addressOf({
  campaign,
  channel,
}: {
  campaign: string | null;
  channel: string | null;
}): string {
  return `${channel ?? ""}/${campaign ?? ""}`;
}

/** Of messages received up to a day, or at any time. */
export function condition(condition: Condition, to?: string): Node[] {
  return [{ campaign: { ...condition, window: to ? { to } : { ever: true } } }];
}

export function named(row: { campaign: string | null; channel: string | null }): string {
  return `${row.campaign ? campaignName(row.campaign) : "no campaign"}${row.channel ? ` (${channelName(row.channel)})` : ""}`;
}

/** "80% and more", "20 to 40%" */
export function bandSaid(band: Band): string {
  const [low, high] = [band.at_least, band.less_than].map((share) => Math.round((share ?? 0) * 100));
  if (band.less_than === null) return `${low}% or more`;
  return low === 0 ? `under ${high}%` : `${low} to ${high}%`;
}

/** Who responded to such a share of messages by a channel. */
export function bandCondition(band: Band, channel: string | null): Node {
  const share = {
    at_least: band.at_least,
    ...(band.less_than === null ? {} : { less_than: band.less_than }),
  };
  return { campaign: { share, ...(channel ? { channel } : {}), window: { ever: true } } };
}
