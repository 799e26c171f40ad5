# frozen_string_literal: true

module Estrel
  module Campaigns
    # What came of the messages of every campaign, by channel and by the state people were in on the day before their
    # message. What is counted adds up over the parts of a ledger.
    #
    # Somebody *was reactivated* who was dormant or churned until the instant of the message and showed activity from
    # then on within {BACK_DAYS} days, the day of the message being the first. What came of messages is told of those
    # whose days are over: {SETTLED_DAYS} after that of the message for responses, {BACK_DAYS} for reactivation.
    class Results
      BACK_DAYS = Audience::Condition::Campaign::WITHIN_DAYS
      SETTLED_DAYS = Messages::SETTLED_DAYS
      # How far a campaign is followed, days.
      FOLLOWED = 28
      DAY = 86_400 * Calendar::MICROS
      GROUP = %w[campaign channel].freeze
      COUNTS = ["messages", "people", "settled", *Messages::WHAT_CAME, "responded", "inactive", "back"].freeze
      private_constant :DAY, :GROUP

      # @param evaluator [Audience::Evaluator] with lifecycle rules
      def initialize(evaluator)
        @evaluator = evaluator
        @messages = Messages.new(evaluator)
      end

      # @param as_of [Date]
      # @return [Date] the last day of whose messages it is known who responded
      def self.settled(as_of) = Messages.settled(as_of)

      # @param as_of [Date]
      # @return [Date] the last day of whose messages it is known who was reactivated
      def self.over(as_of) = as_of - BACK_DAYS + 1

      # @return [Hash{Symbol => Hash}] by `[campaign, channel]`, or with the state as a third, `counts` of {COUNTS} and
      #   `days`, the {Analyses::Span} of the days of the messages, as numbers; `bounced`: messages by campaign and
      #   channel
      def counts = { campaigns: counted(GROUP), states: counted([*GROUP, "state"]), bounced: bounced }

      # What had come of a campaign so many days after each message, of the messages that old.
      #
      # @param name [String, nil] of the campaign
      # @param channel [String, nil]
      # @return [Hash{String => Array<Integer>}] for 0 to {FOLLOWED} days: `messages`, `opened`, `clicked`,
      #   `unsubscribed` (within day + 1 times 24 hours), `inactive` (messages to dormant and churned people), `back`
      def over_time(name, channel)
        rows = frame.filter(Polars.col("campaign").eq_missing(name) & Polars.col("channel").eq_missing(channel))
                    .with_columns([elapsed(Polars.lit(@evaluator.calendar.end_of(@evaluator.as_of))).alias("age")])
        to_inactive = rows.filter(inactive)
        at_once = Polars.lit(0)
        { "messages" => grown(rows, at_once),
          **Messages::WHAT_CAME.to_h { |kind| [kind, grown(rows, elapsed(Polars.col("#{kind}_at")))] },
          "inactive" => grown(to_inactive, at_once),
          "back" => grown(to_inactive, Polars.col("back_day") - Polars.col("day")) }
      end

      private

      def frame = @frame ||= @messages.with_states(@messages.all)

      def counted(keys)
        rows = frame.lazy.group_by(keys).agg([Polars.len.cast(Polars::Int64).alias("messages"),
                                              Polars.col("profile_id").n_unique.cast(Polars::Int64).alias("people"),
                                              *came, sum(inactive & over, "inactive"),
                                              sum(back(BACK_DAYS) & over, "back"),
                                              Polars.col("day").min.alias("first"),
                                              Polars.col("day").max.alias("last")])
                    .collect.rows(named: true)
        rows.to_h do |row|
          [row.values_at(*keys), { counts: row.slice(*COUNTS), days: Analyses::Span.new(row["first"], row["last"]) }]
        end
      end

      def came
        sums = Messages::WHAT_CAME.map { |kind| sum(Polars.col("#{kind}_at").is_not_null & settled, kind) }
        [sum(settled, "settled"), *sums, sum(Polars.col("responded") & settled, "responded")]
      end

      def settled = Polars.col("day").le(Calendar.number(self.class.settled(@evaluator.as_of)))

      def over = Polars.col("day").le(Calendar.number(self.class.over(@evaluator.as_of)))

      def sum(condition, name) = condition.sum.cast(Polars::Int64).alias(name)

      def inactive = Polars.col("inactive")

      def back(days) = inactive & ((Polars.col("back_day") - Polars.col("day")) < days).fill_null(false)

      def bounced
        @messages.bounced.group_by(GROUP).agg([Polars.len.cast(Polars::Int64).alias("n")]).rows
                 .to_h { |*key, count| [key, count] }
      end

      # Whole days from a message to an instant.
      def elapsed(instant) = (instant - Polars.col("occurred_at")).floordiv(DAY)

      # For each day, of how many of the messages that old something had come by then.
      #
      # @param days [Polars::Expr] how many days after each message it came; null for never
      # @return [Array<Integer>]
      def grown(rows, days)
        came = rows.lazy.select([Polars.col("age"), days.alias("came")]).filter(Polars.col("came") <= FOLLOWED)
        counts = came.group_by(%w[age came]).agg([Polars.len.alias("n")]).collect.rows
        (0..FOLLOWED).map { |day| counts.sum { |age, at, n| age > day && at <= day ? n : 0 } }
      end
    end
  end
end
