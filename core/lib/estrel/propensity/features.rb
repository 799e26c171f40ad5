# frozen_string_literal: true

module Estrel
  module Propensity
    # What is known of people at the end of a day that their chance to come back, or to lapse, may depend on. Counts and
    # days go in as logarithms, since the tenth day says more than the hundred and tenth. No attribute goes in.
    class Features
      # Each with what it is called: "the longer …" and "more …" both go with a higher number.
      NAMES = { "inactive" => "days inactive", "overdue" => "days inactive vs usual gap",
                "once" => "only one active day", "days" => "days of activity",
                "history" => "days since the first activity", "recent" => "days of activity in the last 90",
                "season" => "active days in the same season last year", "returns" => "previous reactivations",
                "received" => "messages received in the last 90 days",
                "answered" => "messages responded to in the last 90 days", "spend" => "total spend" }.freeze
      RECENT = 90
      YEAR = 364
      private_constant :RECENT, :YEAR

      # The number that is taken for money spent: of purchases, by the words that tell them.
      #
      # @param catalogue [Catalogue]
      # @return [Hash{String => String}, nil] `event` and `property`
      def self.spend(catalogue)
        points = Audience::StartingPoints
        found = catalogue.event_types.each_value.select { |type| type.name.match?(points::PURCHASE) }
        told = found.filter_map do |type|
          field = type.properties.values.find { |one| one.type == "number" && one.name.match?(points::MONEY) }
          [type, field] if field
        end
        type, field = told.max_by { |one, _| one.count.to_i }
        type && { "event" => type.name, "property" => field.name }
      end

      # @param evaluator [Audience::Evaluator] any as-of date; it needs lifecycle rules
      # @param within [Integer] days that the chance is about
      # @param spend [Hash{String => String}, nil] see {.spend}
      # @param every [Integer] that so many-th person is looked at, by the profile's number
      def initialize(evaluator, within, spend, every: 1)
        @evaluator = evaluator
        @within = within
        @spend = spend
        @every = every
      end

      # @param kind [String] of {Propensity::KINDS}
      # @param date [Date]
      # @return [Polars::DataFrame] of everybody whom the chance is about at the end of the date: `profile_id`, and
      #   {NAMES} as floats; by profile
      def at(kind, date)
        day = Calendar.number(date)
        people = known(day).filter(about(kind, day))
        told = [messages(date, %w[received], "received"),
                messages(date, Campaigns::Messaging::RESPONSES, "answered"), spent(date)]
        told.reduce(people) { |frame, more| frame.join(more, on: "profile_id", how: "left") }
            .select([Polars.col("profile_id"), *columns(day)])
      end

      # @param kind [String]
      # @param date [Date]
      # @return [Polars::DataFrame] `profile_id` and `happened`, 1 for those who came back within the days after the
      #   date, 0 for those who had not lapsed at the end of them; of whoever is missing the opposite is true
      def outcome(kind, date)
        day = Calendar.number(date)
        first = kind == "come_back" ? day + 1 : day + @within - rules.active_within + 1
        active = Polars.col("day").is_between(first, day + @within)
        happened = Polars.lit(kind == "come_back" ? 1.0 : 0.0).alias("happened")
        activity.filter(active).select(["profile_id"]).unique.with_columns([happened])
      end

      # @return [Integer] days inactive from which somebody is dormant
      def lapse = rules.active_within

      private

      def rules = @evaluator.rule_set

      # Each activity day of everybody, by profile and time.
      def activity
        @activity ||= begin
          profile, day = %w[profile_id day].map { |name| Polars.col(name) }
          looked_at.filter(((profile != profile.shift(1)) | (day != day.shift(1))).fill_null(true))
        end
      end

      # All activity of those who are looked at, in order; a day may stand repeatedly.
      def looked_at
        frames = @evaluator.lifecycle.activity_rows.map do |rows|
          rows = rows.filter((Polars.col("profile_id") % @every).eq(0)) if @every > 1
          rows.select([Polars.col("profile_id").cast(Polars::Int64), Polars.col("day").cast(Polars::Int64)])
        end
        frames.one? ? frames.first : Polars.concat(frames).sort(%w[profile_id day])
      end

      # What activity until a day tells of everybody who had any. Rows of one person stand together, so how many there
      # are follows from where the last of them stands; the rarer ones are counted by themselves.
      def known(day)
        rows = until_day(day).with_row_index(name: "place")
        profile, place = %w[profile_id place].map { |name| Polars.col(name) }
        people = rows.filter((profile != profile.shift(-1)).fill_null(true))
                     .select([profile, Polars.col("day").alias("last"), place.cast(Polars::Int64).alias("place")])
                     .with_columns([place.shift(1).fill_null(-1).alias("before")])
        first = rows["day"].take(people["before"] + 1).alias("first")
        people = people.with_columns([first, (place - Polars.col("before")).alias("n")])
        rarer(day).reduce(people) do |frame, (name, which)|
          counted = rows.filter(which).group_by("profile_id").agg([Polars.len.cast(Polars::Int64).alias(name)])
          frame.join(counted, on: "profile_id", how: "left").with_columns([Polars.col(name).fill_null(0)])
        end
      end

      def until_day(day)
        newest = activity["day"].max
        newest && newest > day ? activity.filter(Polars.col("day") <= day) : activity
      end

      # Activity days of the last, of the same season a year before, and after a lapse.
      def rarer(day)
        profile, at = %w[profile_id day].map { |name| Polars.col(name) }
        { "lately" => at > day - RECENT, "then" => at.is_between(day - YEAR + 1, day - YEAR + @within),
          "lapsed" => ((at - at.shift(1)) >= lapse) & (profile == profile.shift(1)) }
      end

      def about(kind, day)
        dormant = (Polars.lit(day) - Polars.col("last")) >= lapse
        kind == "come_back" ? dormant : dormant.is_not
      end

      def columns(day)
        inactive = Polars.lit(day) - Polars.col("last")
        n = Polars.col("n")
        rhythm = (Polars.col("last") - Polars.col("first")).cast(Polars::Float64) / (n - 1)
        once = n == 1
        overdue = Polars.when(once).then(0.0).otherwise(((inactive + 1) / (rhythm + 1)).log)
        { "inactive" => logarithm(inactive), "overdue" => overdue, "once" => once, "days" => logarithm(n),
          "history" => logarithm(Polars.lit(day) - Polars.col("first")), "recent" => logarithm(Polars.col("lately")),
          "season" => logarithm(Polars.col("then")), "returns" => logarithm(Polars.col("lapsed")),
          **%w[received answered spend].to_h { |name| [name, logarithm(Polars.col(name).fill_null(0).clip(0, 1e12))] } }
          .map { |name, column| column.cast(Polars::Float64).alias(name) }
      end

      def logarithm(number) = (number.cast(Polars::Float64) + 1).log

      def messages(date, kinds, name)
        catalogue = @evaluator.catalogue
        types = kinds.filter_map { |kind| catalogue.event_types[catalogue.messaging.event(kind)]&.name }
        return none(name) if types.empty?

        window = Audience::Window.new(from: date - RECENT + 1, to: date)
        rows = Audience::Selection.new(types, Audience::FilterGroup.new("all", [])).rows(by(date), window)
        rows.group_by("profile_id").agg([Polars.len.cast(Polars::Float64).alias(name)])
      end

      def spent(date)
        return none("spend") unless @spend

        rows = Audience::Selection.new([@spend["event"]], Audience::FilterGroup.new("all", []))
                                  .rows(by(date), Audience::Window.new(to: date), property: @spend["property"])
        rows.group_by("profile_id").agg([Polars.col("value").fill_null(0.0).sum.alias("spend")])
      end

      def by(date) = @evaluator.as_of < date ? @evaluator.at(date) : @evaluator

      def none(name)
        Polars::DataFrame.new({ "profile_id" => [], name => [] },
                              schema_overrides: { "profile_id" => Polars::Int64, name => Polars::Float64 })
      end
    end
  end
end
