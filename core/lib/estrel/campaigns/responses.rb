# frozen_string_literal: true

module Estrel
  module Campaigns
    # How one person responds from message to message, see {Streaks}.
    class Responses
      # @param evaluator [Audience::Evaluator] of the person
      def initialize(evaluator)
        @messages = Messages.new(evaluator).all
      end

      # @return [Array<Hash>] by campaign and channel, the one with the newest message first: `campaign`, `channel`, and
      #   `messages`, `responded`, `current`, `longest` and `mean` of {Streaks}; before all of them, with neither, over
      #   all messages
      def series
        return [] if @messages.height.zero?

        parts = @messages.reverse.partition_by(%w[campaign channel], maintain_order: true).map(&:reverse)
        [[{}, @messages], *parts.map { |rows| [rows.row(0, named: true).slice("campaign", "channel"), rows] }]
          .map do |names, rows|
            found = Streaks.of(rows).row(0, named: true)
            { "campaign" => nil, "channel" => nil, **names,
              **found.slice("messages", "responded", "current", "longest", "mean") }
          end
      end
    end
  end
end
