# frozen_string_literal: true

module Estrel
  module Campaigns
    # Response from message to message: every campaign as a point, and people by how much they respond against
    # campaigns. The estimators are those of {Response}.
    class Responses
      # Bounds of the shares of messages responded to by which people are told apart; the last holds 1 itself.
      BANDS = [0.8, 0.6, 0.4, 0.2, 0.05, 0.0].freeze
      # Campaigns that are told apart at most, the newest.
      MOST = 24

      # @param evaluator [Audience::Evaluator]
      # @param channel [String, nil] of the messages looked at; nil for all
      def initialize(evaluator, channel: nil)
        all = Messages.new(evaluator).all
        @messages = channel ? all.filter(Polars.col("channel") == channel) : all
      end

      # @return [Array<Hash>] by campaign and channel: `campaign`, `channel`, `messages`, `people`, and the means over
      #   the people of `mean` and `longest` run within the campaign
      def points
        @messages.partition_by(%w[campaign channel], maintain_order: true).map do |rows|
          people = Response.of(rows)
          { "campaign" => rows["campaign"][0], "channel" => rows["channel"][0], "messages" => rows.height,
            "people" => people.height, "mean" => people["mean"].mean, "longest" => people["longest"].mean }
        end
      end

      # @return [Array<Hash>] of a single person, by campaign and channel, the one with the newest message first:
      #   `campaign`, `channel`, and `messages`, `responded`, `current`, `longest` and `mean` of {Response}; before all
      #   of them, with neither, over all messages
      def of_person
        return [] if @messages.height.zero?

        series = @messages.reverse.partition_by(%w[campaign channel], maintain_order: true).map(&:reverse)
        [[{}, @messages], *series.map { |rows| [rows.row(0, named: true).slice("campaign", "channel"), rows] }]
          .map do |names, rows|
            found = Response.of(rows).row(0, named: true)
            { "campaign" => nil, "channel" => nil, **names, **found.except("profile_id", "share") }
          end
      end

      # @return [Hash] `bands` (each `at_least` and `less_than` of the share, and `people`), `campaigns` (names, by
      #   their last message), and `cells`, by band and campaign `[messages, responded]`
      def heat_map
        people = Response.of(@messages)
        { "bands" => bands(people), "campaigns" => campaigns, "cells" => cells(people) }
      end

      # @return [Hash{Integer => Integer}] people by the length of their current run
      def current_runs = Response.of(@messages)["current"].to_a.tally.sort.to_h

      private

      def bounds = BANDS.each_with_index.map { |low, index| [low, index.zero? ? nil : BANDS[index - 1]] }

      def inside(low, high)
        share = Polars.col("share")
        high ? (share >= low) & (share < high) : share >= low
      end

      def bands(people)
        bounds.map do |low, high|
          { "at_least" => low, "less_than" => high, "people" => people.filter(inside(low, high)).height }
        end
      end

      def campaigns
        @campaigns ||= @messages.filter(Polars.col("campaign").is_not_null)
                                .group_by("campaign").agg([Polars.col("occurred_at").max.alias("last")])
                                .sort(%w[last campaign]).tail(MOST)["campaign"].to_a
      end

      def cells(people)
        shares = @messages.join(people.select(%w[profile_id share]), on: "profile_id", how: "left")
        bounds.map do |low, high|
          found = shares.filter(inside(low, high)).group_by("campaign")
                        .agg([Polars.len.cast(Polars::Int64).alias("n"),
                              Polars.col("responded").sum.cast(Polars::Int64).alias("responded")])
                        .rows.to_h { |name, *counts| [name, counts] }
          campaigns.map { |name| found.fetch(name, [0, 0]) }
        end
      end
    end
  end
end
