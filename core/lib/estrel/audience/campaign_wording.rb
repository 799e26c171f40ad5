# frozen_string_literal: true

module Estrel
  module Audience
    # Words a condition about campaigns.
    class CampaignWording
      DID = { "sent" => "were sent", "opened" => "opened", "clicked" => "clicked", "ignored" => "ignored",
              "unsubscribed" => "unsubscribed from", "reactivated" => "were reactivated" }.freeze
      STREAKS = { "current" => "current response streak to", "longest" => "longest response streak to",
                  "mean" => "mean response streak to" }.freeze

      # @param condition [Condition::Campaign]
      # @param names [Names]
      def initialize(condition, names)
        @condition = condition
        @names = names
      end

      # @return [String] "who", "whose" or "who responded to"
      def opening
        return "who" unless @condition.bounds

        @condition.bounds.of == "share" ? "who responded to" : "whose"
      end

      # @return [String] what came of which messages
      def asked
        return "#{STREAKS.fetch(@condition.bounds.of)} #{messages} is #{range}" if streak?
        return "#{range} of #{messages}" if @condition.bounds
        if @condition.was == "reactivated"
          return "were reactivated within #{English.within({ "days" => @condition.within_days })} of #{one}"
        end

        "#{DID.fetch(@condition.was)} #{@condition.last ? "the last #{number} #{which}".squeeze(" ").strip : one}"
      end

      # @return [String, nil] "received while dormant"
      def from
        states = @condition.from&.map { |state| English.state(state) }
        states && "received while #{English.either(states)}"
      end

      private

      def streak? = @condition.bounds && @condition.bounds.of != "share"

      def number = @condition.last == 1 ? "message" : "#{@condition.last} messages"

      def one = "a message #{which}".strip

      def messages = @condition.last ? "the last #{number} #{which}".strip : "messages #{which}".strip

      def which
        [@condition.name && "of #{English.quoted(@names.campaign(@condition.name))}",
         ("without a campaign" if @condition.without_name),
         @condition.channel && "by #{English.channel(@condition.channel)}",
         ("without a channel" if @condition.without_channel)].compact.join(" ")
      end

      def range
        low, high = [@condition.bounds.at_least, @condition.bounds.less_than].map { |value| value && amount(value) }
        return "at least #{low}" unless high

        low ? "at least #{low} and less than #{high}" : "less than #{high}"
      end

      def amount(value) = streak? ? English.value(value.to_f) : English.percent(value)
    end
  end
end
