# frozen_string_literal: true

module Estrel
  class BeforeAfter
    # Whose day 0 is when: of everybody who did something for the first time between two dates, or one date for all
    # members of an audience on the day before. Frozen.
    class Start
      # Days from the first to the last day 0.
      MOST = 184

      # @param selection [Audience::Selection] what was done for the first time
      # @param from [Date]
      # @param to [Date]
      # @return [Start]
      # @raise [Invalid]
      def self.first(selection, from, to)
        raise Invalid, "from and to are dates at most #{MOST - 1} days apart" unless (0...MOST).cover?((to - from).to_i)

        new(selection: selection, from: from, to: to)
      end

      # @param date [Date]
      # @param definition [Audience::Definition, nil] nil for everybody
      # @param name [String, nil] of the audience
      # @return [Start]
      def self.date(date, definition = nil, name: nil) = new(date: date, definition: definition, name: name)

      def initialize(selection: nil, from: nil, to: nil, date: nil, definition: nil, name: nil)
        @selection = selection
        @range = from && (Calendar.number(from)..Calendar.number(to))
        @date = date
        @definition = definition
        @name = name
        freeze
      end

      # @param evaluator [Audience::Evaluator]
      # @return [Polars::DataFrame] `profile_id` and `day`
      def days(evaluator)
        return members(evaluator) if @date

        firsts(evaluator).filter(Polars.col("day").is_between(@range.min, @range.max))
      end

      # Who is no match for those with a day 0, and from which day on.
      #
      # @param evaluator [Audience::Evaluator]
      # @return [Polars::DataFrame, nil] `profile_id` and `day`; nil where all are looked at and nobody is left
      def taken(evaluator)
        return firsts(evaluator) unless @date

        @definition && members(evaluator)
      end

      # @return [Boolean] whether everybody has the same day 0
      def date? = !@date.nil?

      # @return [String] "bought a pass for the first time"
      def to_s
        return "#{Audience::Wording.events(@selection)} for the first time" unless @date

        "who were #{@name ? "in “#{@name}”" : "there"} before #{Audience::Wording.date(@date)}"
      end

      # @return [String] " between 8 May 2026 and 30 May 2026"; nothing where everybody has the same day 0
      def period
        return "" if @date

        " between #{@range.minmax.map { |day| Audience::Wording.date(Calendar.date(day)) }.join(" and ")}"
      end

      private

      def firsts(evaluator)
        evaluator.remembered([:first_days, @selection.to_h]) do
          @selection.rows(evaluator, Audience::Window.from_h(nil)).lazy.group_by("profile_id")
                    .agg([Polars.col("day").min.alias("day")]).collect
        end
      end

      def members(evaluator)
        before = evaluator.at(@date - 1)
        ids = @definition ? before.members(@definition) : before.ids.filter(before.seen(@date - 1))
        day = Polars.lit(Calendar.number(@date)).cast(Polars::Int32).alias("day")
        ids.alias("profile_id").to_frame.with_columns([day])
      end
    end
  end
end
