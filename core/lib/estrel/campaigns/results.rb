# frozen_string_literal: true

module Estrel
  module Campaigns
    # What came of every campaign, by channel and by the state people were in on the day before their message.
    #
    # Shares are of the messages received. Somebody *came back* who was dormant or churned on that day and showed
    # activity within {BACK_DAYS} days, the day of the message being the first.
    class Results
      BACK_DAYS = Audience::Clause::Campaign::WITHIN_DAYS
      # How far a campaign is followed, days.
      FOLLOWED = 28
      DAY = 86_400 * Calendar::MICROS
      GROUP = %w[campaign channel].freeze
      private_constant :GROUP

      # @param evaluator [Audience::Evaluator]
      def initialize(evaluator)
        @evaluator = evaluator
        @messages = Messages.new(evaluator)
      end

      # @return [Array<Hash>] by campaign and channel, the newest first: `campaign`, `channel`, `first_day` and
      #   `last_day` (dates), the counts, `bounced`, `complete` (whether all have been followed for {BACK_DAYS} days),
      #   and `states`, the counts by state
      def campaigns
        @campaigns ||= begin
          states = counts([*GROUP, "state"]).group_by { |row| row.values_at(*GROUP) }
          rows = counts(GROUP).map { |row| campaign(row, states.fetch(row.values_at(*GROUP), [])) }
          rows.sort_by { |row| [-Calendar.number(row["last_day"]), row["campaign"].to_s, row["channel"].to_s] }
        end
      end

      # What had come of a campaign so many days after each message, of the messages that old.
      #
      # @param name [String, nil] of the campaign
      # @param channel [String, nil]
      # @return [Array<Hash>] for each of 0 to {FOLLOWED} days: `day`, `messages`, `opened`, `clicked`, `unsubscribed`
      #   (within day + 1 times 24 hours), `quiet` (messages to dormant and churned people) and `back`
      def over_time(name, channel)
        rows = frame.filter(Polars.col("campaign").eq_missing(name) & Polars.col("channel").eq_missing(channel))
                    .with_columns([elapsed(Polars.lit(@evaluator.calendar.end_of(@evaluator.as_of))).alias("age")])
        to_quiet = rows.filter(quiet)
        at_once = Polars.lit(0)
        counts = { "messages" => grown(rows, at_once),
                   **Messages::WHAT_CAME.to_h { |kind| [kind, grown(rows, elapsed(Polars.col("#{kind}_at")))] },
                   "quiet" => grown(to_quiet, at_once),
                   "back" => grown(to_quiet, Polars.col("back_day") - Polars.col("day")) }
        (0..FOLLOWED).map { |day| { "day" => day, **counts.transform_values { |found| found[day] } } }
      end

      # @return [String] what is most worth knowing
      def takeaway
        return "Nobody has been sent a message yet." if campaigns.empty?

        best = campaigns.select { |row| row["quiet"].positive? }.max_by { |row| share(row, "back", "quiet") }
        latest = campaigns.first
        told = "#{name(latest)} was the last, with #{Audience::Wording.percent(share(latest, "responded",
                                                                                     "messages"))} " \
               "of #{number(latest["messages"])} messages responded to"
        return "#{told}." if best.nil? || best["back"].zero?

        "#{told}. Most people came back within #{BACK_DAYS} days of #{name(best)}: " \
          "#{Audience::Wording.percent(share(best, "back",
                                             "quiet"))} of #{number(best["quiet"])} messages to dormant or " \
          "churned people."
      end

      private

      def frame = @frame ||= @messages.with_states(@messages.all)

      def counts(keys)
        frame.lazy.group_by(keys).agg([Polars.len.cast(Polars::Int64).alias("messages"),
                                       Polars.col("profile_id").n_unique.cast(Polars::Int64).alias("people"),
                                       *came, sum(quiet, "quiet"), sum(back(BACK_DAYS), "back"),
                                       Polars.col("day").min.alias("first_day"),
                                       Polars.col("day").max.alias("last_day")])
             .collect.rows(named: true)
      end

      def came
        sums = Messages::WHAT_CAME.map { |kind| sum(Polars.col("#{kind}_at").is_not_null, kind) }
        [*sums, sum(Polars.col("responded"), "responded")]
      end

      def sum(condition, name) = condition.sum.cast(Polars::Int64).alias(name)

      def quiet = Polars.col("state").is_in(%w[dormant churned]).fill_null(false)

      def back(days)
        quiet & ((Polars.col("back_day") - Polars.col("day")) < days).fill_null(false)
      end

      def campaign(row, states)
        last = Calendar.date(row["last_day"])
        by_state = states.reject { |one| one["state"].nil? }.sort_by { |one| Lifecycle::STATES.index(one["state"]) }
        row.merge("first_day" => Calendar.date(row["first_day"]), "last_day" => last, "bounced" => bounced(row),
                  "complete" => last + BACK_DAYS - 1 <= @evaluator.as_of,
                  "states" => by_state.map { |one| one.except(*GROUP, "first_day", "last_day") })
      end

      def bounced(row)
        @bounced ||= @messages.bounced.group_by(GROUP).agg([Polars.len.alias("n")]).rows.to_h { |*key, n| [key, n] }
        @bounced.fetch(row.values_at(*GROUP), 0)
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

      def share(row, part, whole) = row[whole].zero? ? 0.0 : row[part].fdiv(row[whole])

      def name(row)
        channel = row["channel"] && " by #{Audience::Wording.channel(row["channel"])}"
        "“#{row["campaign"] || "no campaign"}”#{channel}"
      end

      def number(count) = Audience::Wording.number(count)
    end
  end
end
