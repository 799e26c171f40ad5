# frozen_string_literal: true

module Estrel
  module Campaigns
    # Response streaks: how many messages in a row each person responded to. A message not responded to ends a streak;
    # one that is too young to say so does not, and is left out.
    module Streaks
      module_function

      # @param messages [Polars::DataFrame] some of {Messages#all}, in its order
      # @return [Polars::DataFrame] one row per person: `profile_id`, `messages`, `responded` (how many), `current` (the
      #   streak that the newest message belongs to; 0 where it was not responded to), `longest`, `streaks` (how many),
      #   `mean` (length of a streak; 0 without any), `share` (responded to; 0 without any)
      def of(messages)
        settled = messages.filter(Polars.col("young").is_not).with_row_index(name: "at")
        runs = runs(settled)
        newest = per_person(settled, "settled").hstack([runs.filter(last)["length"].alias("current")])
        all = per_person(messages.with_row_index(name: "at"), "messages").join(newest, on: "profile_id", how: "left")
        counts = %w[current responded longest streaks].map { |name| Polars.col(name).fill_null(0) }
        found = all.join(answered(runs).collect, on: "profile_id", how: "left")
                   .with_columns([*counts, Polars.col("mean").fill_null(0.0)])
        share = (Polars.col("responded") / Polars.col("settled")).fill_null(0.0)
        found.with_columns([share.alias("share")]).drop("settled")
      end

      # How many rows each person has.
      def per_person(rows, name)
        stretches(rows, Polars.lit(false)).select([Polars.col("profile_id"), Polars.col("messages").alias(name)])
      end

      # Whether a row is its person's last.
      def last = (Polars.col("profile_id") != Polars.col("profile_id").shift(-1)).fill_null(true)

      # Messages stand by person and time, so a run begins with every person and with every message that was missed; one
      # that was missed does not count.
      def runs(rows)
        runs = stretches(rows, Polars.col("responded").is_not)
        runs.with_columns([(Polars.col("messages") - Polars.col("holds").cast(Polars::Int64)).alias("length")])
      end

      # Stretches of rows that begin with a person or with what a condition holds of, and how many messages each has.
      def stretches(rows, condition)
        profile = Polars.col("profile_id")
        begins = (profile != profile.shift(1)).fill_null(true)
        at = Polars.col("at").cast(Polars::Int64)
        rows.lazy.filter(begins | condition)
            .select([profile, (at.shift(-1).fill_null(rows.height) - at).alias("messages"), condition.alias("holds")])
            .collect
      end

      # What there is of everybody who has responded.
      def answered(runs)
        length = Polars.col("length")
        runs.lazy.filter(length > 0).group_by("profile_id") # rubocop:disable Style/NumericPredicate
            .agg([length.sum.alias("responded"), length.max.alias("longest"),
                  Polars.len.cast(Polars::Int64).alias("streaks"), length.mean.alias("mean")])
      end
      private_class_method :last, :runs, :per_person, :stretches, :answered
    end
  end
end
