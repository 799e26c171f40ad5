# frozen_string_literal: true

module Estrel
  module Analyses
    # How people respond from message to message: every campaign by how long the streaks of response to it are, and
    # people by how much they respond, against campaigns. Messages, and people by the lengths of their streaks, add up
    # over the parts; means are taken of all people together.
    class ResponseStreaks < Analysis
      # Bounds of the shares of messages responded to by which people are told apart; the last holds 1 itself.
      BANDS = [0.8, 0.6, 0.4, 0.2, 0.05, 0.0].freeze
      # Campaigns that are told apart at most, the newest.
      MOST = 24
      GROUP = %w[campaign channel].freeze
      private_constant :GROUP

      def doing(_found) = "Reading messages"

      def partial(part, _found)
        all = Estrel::Campaigns::Messages.new(part).all
        messages = channel ? all.filter(Polars.col("channel") == channel) : all
        people = Estrel::Campaigns::Streaks.of(messages)
        { series: series(messages, part), current: tally(people, "current"), bands: bands_of(people),
          last: last_days(messages), cells: cells_of(messages, people) }
      end

      def answer((found))
        @found = found
        @campaigns = found[:last].sort_by { |name, span| [span.last, name] }.last(MOST).map(&:first)
        Answer.new(finding: finding, picture: picture, tables: [streaks_table, bands_table, points_table],
                   caveats: ["Campaigns sent once have streaks of at most 1."])
      end

      private

      def channel = question["channel"]

      def bounds = BANDS.each_with_index.map { |low, index| [low, index.zero? ? nil : BANDS[index - 1]] }

      def inside(low, high)
        share = Polars.col("share")
        high ? (share >= low) & (share < high) : share >= low
      end

      # By campaign and channel, the messages, and how many people responded so often, in so many streaks, the longest
      # of such a length.
      def series(messages, part)
        messages.partition_by(GROUP, maintain_order: true).to_h do |rows|
          part.budget.check
          people = tally(Estrel::Campaigns::Streaks.of(rows), %w[responded streaks longest])
          [rows.row(0, named: true).values_at(*GROUP), { messages: rows.height, people: people }]
        end
      end

      def tally(people, columns)
        people.group_by(columns).agg([Polars.len.cast(Polars::Int64).alias("n")]).rows
              .to_h { |*values, count| [columns.is_a?(Array) ? values : values.first, count] }
      end

      def bands_of(people) = bounds.map { |low, high| people.filter(inside(low, high)).height }

      def last_days(messages)
        messages.filter(Polars.col("campaign").is_not_null).group_by("campaign")
                .agg([Polars.col("occurred_at").max.alias("last")]).rows
                .to_h { |name, last| [name, Span.new(last, last)] }
      end

      # Messages and how many were responded to, by band and campaign; as in the shares of people, without those that
      # are too young to have been ignored.
      def cells_of(messages, people)
        shares = messages.filter(Polars.col("young").is_not).join(people.select(%w[profile_id share]),
                                                                  on: "profile_id", how: "left")
        bounds.map do |low, high|
          shares.filter(inside(low, high)).group_by("campaign")
                .agg([Polars.len.cast(Polars::Int64).alias("n"),
                      Polars.col("responded").sum.cast(Polars::Int64).alias("responded")])
                .rows.to_h { |name, *counts| [name, counts] }
        end
      end

      def picture
        { points: points, bands: bands, campaigns: @campaigns, current_streaks: current,
          cells: @found[:cells].map { |row| @campaigns.map { |name| row.fetch(name, [0, 0]) } } }
      end

      def points
        @points ||= @found[:series].sort_by { |key, _| key.map(&:to_s) }.map do |(campaign, channel), found|
          people = found[:people].sort
          count = people.sum(&:last)
          mean = people.sum { |(responded, streaks, _), n| streaks.zero? ? 0.0 : n * responded.fdiv(streaks) }
          { campaign: campaign, channel: channel, messages: found[:messages], people: count, mean: mean / count,
            longest: people.sum { |(_, _, longest), n| n * longest }.fdiv(count) }
        end
      end

      def bands
        bounds.zip(@found[:bands]).map { |(low, high), people| { at_least: low, less_than: high, people: people } }
      end

      def current = @found[:current].sort.map { |length, people| { length: length, people: people } }

      def finding
        people = current.sum { |row| row[:people] }
        return "No messages sent yet." if people.zero?

        going = current.sum { |row| row[:length].positive? ? row[:people] : 0 }
        longest = current.last[:length]
        "#{English.percent(going.fdiv(people))} of people (#{English.number(going)} of #{English.number(people)}) " \
          "responded to their latest message. Longest current streak: #{English.counted(longest, "message")}."
      end

      def streaks_table
        rows = current.map do |row|
          streak = { "of" => "current", "at_least" => row[:length], "less_than" => row[:length] + 1 }
          Table.row(row.values_at(:length, :people), people: of_messages("streak" => streak))
        end
        Table.new("current", "Current streaks",
                  [["length", "Messages in a row", "count"], ["people", "People", "people"]], rows)
      end

      def bands_table
        rows = bands.map do |band|
          share = { "at_least" => band[:at_least], "less_than" => band[:less_than] }.compact
          Table.row([band[:at_least], band[:less_than] || 1.0, band[:people]], people: of_messages("share" => share))
        end
        Table.new("bands", "People by response rate",
                  [["from", "From", "share"], ["to", "to", "share"],
                   ["people", "People", "people"]], rows)
      end

      def points_table
        columns = %i[messages people mean longest]
        names = workspace.catalogue.names
        rows = points.map do |point|
          channel = point[:channel] && English.channel(point[:channel])
          Table.row([names.campaign(point[:campaign]), channel, *point.values_at(*columns)])
        end
        Table.new("campaigns", "Streaks by campaign",
                  [["campaign", "Campaign", "text"], ["channel", "Channel", "text"],
                   ["messages", "Messages", "count"], ["people", "People", "count"],
                   ["mean", "Mean streak", "mean"], ["longest", "Mean longest streak", "mean"]], rows)
      end

      def of_messages(asked)
        { "campaign" => { **asked, "channel" => channel, "window" => { "ever" => true } }.compact }
      end
    end
  end
end
