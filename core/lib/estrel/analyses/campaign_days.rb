# frozen_string_literal: true

module Estrel
  module Analyses
    # What had come of a campaign day by day after each message, of the messages that old. Messages add up over the
    # parts.
    class CampaignDays < Analysis
      KINDS = %w[messages opened clicked unsubscribed inactive back].freeze
      private_constant :KINDS

      def self.states? = true

      def doing(_found) = "Following the messages"

      def partial(part, _found)
        Estrel::Campaigns::Results.new(part).over_time(*question.values_at("campaign", "channel"))
      end

      def answer((counts))
        @days = counts.fetch("messages").each_index.map do |day|
          { "day" => day, **KINDS.to_h { |kind| [kind, counts.fetch(kind)[day]] } }
        end
        Answer.new(finding: finding, picture: { days: @days }, tables: [table])
      end

      private

      # About the messages that can be followed to the end.
      def finding
        last = @days.last
        return "No message of it has been followed for #{last["day"]} days yet." if last["messages"].zero?

        shares = %w[opened clicked].map { |kind| English.percent(last[kind].fdiv(last["messages"])) }
        "After #{last["day"]} days #{shares[0]} had been opened and #{shares[1]} clicked#{back_said(last)}."
      end

      def back_said(day)
        return "" if day["inactive"].zero?

        "; of those to dormant or churned people #{English.percent(day["back"].fdiv(day["inactive"]))} were " \
          "followed by a reactivation"
      end

      def table
        rows = @days.map do |day|
          Table.row(day.values_at("day", *KINDS), cells: { "back" => back(day["day"] + 1) })
        end
        Table.new("days", "Day by day after the message",
                  [["day", "Day", "days"], ["messages", "Messages", "count"],
                   ["opened", "Opened", "count", nil, "messages"],
                   ["clicked", "Clicked", "count", nil, "messages"],
                   ["unsubscribed", "Unsubscribed", "count"],
                   ["inactive", "To dormant or churned people", "count"],
                   ["back", "Reactivated", "count", nil, "inactive"]], rows)
      end

      def back(days)
        { "campaign" => { "was" => "reactivated",
                          **CampaignResults.messages_of(*question.values_at("campaign", "channel")),
                          "within_days" => days, "window" => { "ever" => true } } }
      end
    end
  end
end
