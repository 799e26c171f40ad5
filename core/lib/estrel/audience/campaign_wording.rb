# frozen_string_literal: true

module Estrel
  module Audience
    # Words a clause about campaigns.
    class CampaignWording
      DID = { "sent" => "were sent", "opened" => "opened", "clicked" => "clicked in", "ignored" => "ignored",
              "unsubscribed" => "unsubscribed from", "returned" => "came back" }.freeze
      RUNS = { "current" => "current run of response to", "longest" => "longest run of response to",
               "mean" => "mean run of response to" }.freeze

      # @param clause [Condition::Campaign]
      def initialize(clause)
        @clause = clause
      end

      # @return [String] "who", "whose" or "who responded to"
      def opening
        return "who" unless @clause.bounds

        @clause.bounds.of == "share" ? "who responded to" : "whose"
      end

      # @return [String] what came of which messages
      def asked
        return "#{RUNS.fetch(@clause.bounds.of)} #{messages} is #{range}" if run?
        return "#{range} of #{messages}" if @clause.bounds
        if @clause.was == "returned"
          return "came back within #{English.within({ "days" => @clause.within_days })} of #{one}"
        end

        "#{DID.fetch(@clause.was)} #{@clause.last ? "the last #{number} #{which}".squeeze(" ").strip : one}"
      end

      # @return [String, nil] "received while dormant"
      def from = @clause.from && "received while #{English.either(@clause.from)}"

      private

      def run? = @clause.bounds && @clause.bounds.of != "share"

      def number = @clause.last == 1 ? "message" : "#{@clause.last} messages"

      def one = "a message #{which}".strip

      def messages = @clause.last ? "the last #{number} #{which}".strip : "messages #{which}".strip

      def which
        [@clause.name && "of “#{@clause.name}”",
         @clause.channel && "by #{English.channel(@clause.channel)}"].compact.join(" ")
      end

      def range
        low, high = [@clause.bounds.at_least, @clause.bounds.less_than].map { |value| value && amount(value) }
        return "at least #{low}" unless high

        low ? "at least #{low} and less than #{high}" : "less than #{high}"
      end

      def amount(value) = run? ? English.value(value.to_f) : English.percent(value)
    end
  end
end
