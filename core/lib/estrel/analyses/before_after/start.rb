# frozen_string_literal: true

module Estrel
  module Analyses
    class BeforeAfter < Analysis
      # Whose day 0 is when: of everybody who did something for the first time between two dates, or one date for all
      # members of an audience on the day before. Frozen.
      class Start
        # Days from the first to the last day 0.
        MOST = 184

        # @param selection [Audience::Selection] what was done for the first time
        # @param from [Date]
        # @param to [Date]
        # @param catalogue [Catalogue]
        # @return [Start]
        # @raise [Invalid]
        def self.first(selection, from, to, catalogue)
          days = (to - from).to_i
          return new(selection: selection, from: from, to: to, catalogue: catalogue) if (0...MOST).cover?(days)

          raise Invalid.at("to", "the period must have 1 to #{MOST} days")
        end

        # @param date [Date]
        # @param audience [Stored::NamedAudience, nil] nil for everybody
        # @return [Start]
        def self.date(date, audience = nil) = new(date: date, definition: audience&.definition, name: audience&.name)

        def initialize(selection: nil, from: nil, to: nil, date: nil, definition: nil, name: nil,
                       catalogue: nil)
          @selection = selection
          @range = from && (Calendar.number(from)..Calendar.number(to))
          @date = date
          @definition = definition
          @name = name
          @catalogue = catalogue
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

        # @return [Range<Integer>] the numbers of the days on which a day 0 can lie
        def range = @date ? (Calendar.number(@date)..Calendar.number(@date)) : @range

        # @return [Array] names it completely
        def key = [@selection&.to_h, @range, @date, @definition&.root&.key, @name]

        # @return [Boolean] whether everybody has the same day 0
        def date? = !@date.nil?

        # @return [String] "bought a pass for the first time"
        def to_s
          return "#{Audience::Phrases.done(@selection, @catalogue)} for the first time" unless @date

          "were #{@name ? "in #{English.quoted(@name)}" : "known"} on the day before #{English.date(@date)}"
        end

        # @return [String] " between 8 May 2026 and 30 May 2026"; nothing where everybody has the same day 0
        def period
          return "" if @date

          " between #{@range.minmax.map { |day| English.date(Calendar.date(day)) }.join(" and ")}"
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
end
