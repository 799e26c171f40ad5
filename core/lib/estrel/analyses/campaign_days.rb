# frozen_string_literal: true

module Estrel
  module Analyses
    # What had come of a campaign day by day after each message, of the messages that old. Messages add up over the
    # parts.
    class CampaignDays < Analysis
      KINDS = %w[messages opened clicked unsubscribed inactive back].freeze
      private_constant :KINDS

      def self.states? = true

      def doing(_found) = "Measuring results"

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
        return "No message is #{last["day"]} days old yet." if last["messages"].zero?

        shares = %w[opened clicked].map { |kind| English.percent(last[kind].fdiv(last["messages"])) }
        "#{English.counted(last["day"], "day")} after sending: #{shares[0]} opened, #{shares[1]} " \
          "clicked#{back_said(last)}."
      end

      def back_said(day)
        return "" if day["inactive"].zero?

        "; #{English.percent(day["back"].fdiv(day["inactive"]))} of messages to dormant or churned people followed " \
          "by a reactivation"
      end

      def table
        rows = @days.map do |day|
          Table.row(day.values_at("day", *KINDS), cells: { "back" => back(day["day"] + 1) })
        end
        Table.new("days", "Results by days after sending",
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
