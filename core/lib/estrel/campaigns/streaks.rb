# frozen_string_literal: true

module Estrel
  module Campaigns
    # Response streaks: how many messages in a row each person responded to. A message not responded to ends a streak.
    module Streaks
      module_function

      # @param messages [Polars::DataFrame] some of {Messages#all}, in its order
      # @return [Polars::DataFrame] one row per person: `profile_id`, `messages`, `responded` (how many), `current` (the
      #   streak that the newest message belongs to; 0 where it was not responded to), `longest`, `streaks` (how many),
      #   `mean` (length of a streak; 0 without any), `share` (responded to)
      def of(messages)
        length = Polars.col("length")
        answered = length.filter(length > 0) # rubocop:disable Style/NumericPredicate
        share = Polars.col("responded").cast(Polars::Float64) / Polars.col("messages")
        each(messages).group_by("profile_id", maintain_order: true)
                      .agg([Polars.col("messages").sum.alias("messages"), length.sum.alias("responded"),
                            length.last.alias("current"), length.max.alias("longest"),
                            answered.len.cast(Polars::Int64).alias("streaks"),
                            answered.mean.fill_null(0.0).alias("mean")])
                      .with_columns([share.alias("share")]).sort("profile_id").collect
      end

      # Every message that was missed begins a streak anew, of length 0.
      def each(messages)
        missed = Polars.col("responded").is_not.cast(Polars::Int64)
        messages.lazy.with_columns([missed.cum_sum.alias("streak")])
                .group_by(%w[profile_id streak], maintain_order: true)
                .agg([Polars.col("responded").sum.cast(Polars::Int64).alias("length"),
                      Polars.len.cast(Polars::Int64).alias("messages")])
      end
      private_class_method :each
    end
  end
end
