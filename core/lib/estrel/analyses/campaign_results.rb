# frozen_string_literal: true

module Estrel
  module Analyses
    # What came of every campaign, by channel and by the state people were in on the day before their message: of the
    # messages whose days are over, see {Campaigns::Results}. Messages and people add up over the parts.
    class CampaignResults < Analysis
      Results = Estrel::Campaigns::Results
      BACK_DAYS = Results::BACK_DAYS
      SETTLED_DAYS = Results::SETTLED_DAYS
      # Of fewer messages to dormant or churned people nothing is said.
      ENOUGH = 50
      CAVEAT = "Opens, clicks and unsubscribes are counted for messages at least #{SETTLED_DAYS} days old, " \
               "reactivations after #{BACK_DAYS} days. Reactivated: dormant or churned before the message, active " \
               "within #{BACK_DAYS} days. For the effect of the message, use a holdout (see the run).".freeze
      # The counts that a condition finds the people of, with what it asks for.
      ASKED = { "messages" => "sent", "settled" => "sent", "opened" => "opened", "clicked" => "clicked",
                "unsubscribed" => "unsubscribed", "ignored" => "ignored", "back" => "reactivated" }.freeze
      NAMES = [%w[campaign Campaign text], %w[channel Channel text]].freeze
      COMPLETE = %w[complete Complete flag].freeze
      private_constant :Results, :CAVEAT, :ASKED, :NAMES, :COMPLETE

      # @param campaign [String, nil]
      # @param channel [String, nil]
      # @return [Hash] which messages these are, in a campaign condition's JSON
      def self.messages_of(campaign, channel)
        { **(campaign ? { "name" => campaign } : { "without_name" => true }),
          **(channel ? { "channel" => channel } : { "without_channel" => true }) }
      end

      def self.states? = true

      def doing(_found) = "Reading messages"

      def partial(part, _found) = Results.new(part).counts

      def answer((found))
        @found = found
        picture = { messaging: workspace.catalogue.messaging.to_h, back_days: BACK_DAYS, campaigns: campaigns,
                    settled: Results.settled(workspace.as_of), over: Results.over(workspace.as_of) }
        Answer.new(finding: finding, picture: picture, tables: [table, states_table],
                   caveats: campaigns.empty? ? [] : [CAVEAT])
      end

      private

      def rests_on = [workspace.stored.exported_by_name(workspace.as_of).to_a]

      # The newest first.
      def campaigns
        @campaigns ||= begin
          exported = workspace.stored.exported_by_name(workspace.as_of)
          rows = @found[:campaigns].map { |key, row| campaign(key, row, exported.fetch(key, nil)) }
          rows.sort_by { |row| [-Calendar.number(row["last_day"]), row["campaign"].to_s, row["channel"].to_s] }
        end
      end

      def campaign(key, row, exported)
        first, last = row[:days].to_a.map { |day| Calendar.date(day) }
        { "campaign" => key[0], "channel" => key[1], **row[:counts], "first_day" => first, "last_day" => last,
          "bounced" => @found[:bounced].fetch(key, 0), "complete" => last <= Results.over(workspace.as_of),
          "exported" => exported, "states" => states(key) }
      end

      def states(key)
        Lifecycle::STATES.filter_map do |state|
          found = @found[:states][[*key, state]]
          found && { "state" => state, **found[:counts] }
        end
      end

      def finding
        return "No messages sent yet." if campaigns.empty?

        # Messages without a campaign are none themselves.
        latest = campaigns.find { |row| row["campaign"] } or return "No message has a campaign."
        newest = "Latest campaign: #{name(latest)}#{responded(latest)}."
        best = judged.max_by { |row| share(row, "back", "inactive") }
        return newest if best.nil? || best["back"].zero?

        low, high = Statistics::Shares.wilson(best["back"], best["inactive"]).map { |share| English.percent(share) }
        "#{newest} Highest reactivation rate: #{name(best)}, #{English.percent(share(best, "back", "inactive"))} " \
          "within #{BACK_DAYS} days (95% CI #{English.interval(low, high)}; #{number(best["inactive"])} messages to " \
          "dormant or churned people)."
      end

      # How many responded as far as that is known, and of how many messages it is not.
      def responded(row)
        young = row["messages"] - row["settled"]
        days = "less than #{SETTLED_DAYS} days old"
        return "; its messages are #{days}" if row["settled"].zero?

        more = "; #{number(young)} more #{young == 1 ? "is" : "are"} #{days}" if young.positive?
        ", response rate #{English.percent(share(row, "responded", "settled"))} " \
          "(#{English.counted(row["settled"], "message")}#{more})"
      end

      # Campaigns that can be the best: with enough messages whose days are over.
      def judged = campaigns.select { |row| row["campaign"] && row["inactive"] >= ENOUGH }

      def share(row, part, whole) = row[whole].zero? ? 0.0 : row[part].fdiv(row[whole])

      def name(row)
        "#{English.quoted(called(row))}#{" (#{English.channel(row["channel"])})" if row["channel"]}"
      end

      def number(count) = English.number(count)

      def table
        rows = campaigns.map do |row|
          cells = cells(row)
          Table.row([*names(row), row["last_day"], *came_of(row), *row.values_at("exported", "bounced", "first_day"),
                     row["complete"]], people: cells["messages"], cells: cells)
        end
        Table.new("campaigns", "Campaign results",
                  [*NAMES, ["last_day", "Last message", "date"], *came, ["exported", "Exported", "count"],
                   ["bounced", "Bounced", "count"], ["first_day", "First message", "date"], COMPLETE], rows)
      end

      # By the state people were in on the day before their message.
      def states_table
        rows = campaigns.flat_map do |row|
          row["states"].map do |found|
            cells = cells(row, "from" => [found["state"]])
            Table.row([*names(row), found["state"], *came_of(found), row["complete"]], people: cells["messages"],
                                                                                       cells: cells)
          end
        end
        Table.new("states", "By state on the day before", [*NAMES, %w[state State state], *came, COMPLETE],
                  rows)
      end

      def called(row) = row["campaign"] ? workspace.catalogue.names.campaign(row["campaign"]) : "no campaign"

      def names(row) = [called(row), row["channel"] && English.channel(row["channel"])]

      def came_of(row)
        [*row.values_at("messages", "settled", "opened", "clicked", "unsubscribed"),
         row["settled"] - row["responded"], *row.values_at("inactive", "back")]
      end

      def came
        [["messages", "Messages", "count"], ["settled", "At least #{SETTLED_DAYS} days old", "count"],
         *%w[opened clicked unsubscribed ignored].map { |key| [key, key.capitalize, "count", nil, "settled"] },
         ["inactive", "To dormant or churned people", "count"], ["back", "Reactivated", "count", nil, "inactive"]]
      end

      # The people of each count.
      def cells(row, more = {})
        ASKED.to_h do |key, was|
          [key, { "campaign" => { "was" => was, **CampaignResults.messages_of(*row.values_at("campaign", "channel")),
                                  **more, "window" => window(key) } }]
        end
      end

      # When the messages were received that count.
      def window(key)
        case key
        when "messages" then { "ever" => true }
        when "back" then { "to" => Results.over(workspace.as_of).iso8601 }
        else { "to" => Results.settled(workspace.as_of).iso8601 }
        end
      end
    end
  end
end
