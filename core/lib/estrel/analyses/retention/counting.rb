# frozen_string_literal: true

module Estrel
  module Analyses
    class Retention
      # Counts who began in a part of the ledger, and who came back when.
      #
      # A *block* is one of {BLOCKS} into which people are put by their number, so that it can be told how much figures
      # would differ with other people, where the same person begins several times.
      class Counting
        BLOCKS = 20

        # @param analysis [Retention]
        # @return [Integer] in how many blocks people are told of
        def self.blocks(analysis) = analysis.first? ? 1 : BLOCKS

        # @param analysis [Retention]
        # @param part [Audience::Evaluator]
        def initialize(analysis, part)
          @analysis = analysis
          @part = part
          @steps = analysis.steps
          @window = EventCounts.window(@steps)
        end

        # @return [Hash{String, nil => Integer}] see {EventGroups#counts}
        def values = @analysis.groups.counts(begun, @part, people: true)

        # @return [Hash{Symbol => Hash}] for {Sum}: `sizes`, starts by {#code} of group, block, cohort; `cells`, those
        #   with a return by the code and the place
        def to_h(labels)
          each = @analysis.in_groups(begun, @part, labels).map do |told|
            told = told.with_columns([code.alias("code")])
            { sizes: Lifecycle::Tally.of(told, Polars.col("code")), cells: cells(told) }
          end
          each.reduce { |one, other| Sum.of(one, other) }
        end

        private

        def code
          block = Polars.col("profile_id") % Counting.blocks(@analysis)
          (((Polars.col("group").cast(Polars::Int64) * Counting.blocks(@analysis)) + block) * @analysis.cohorts) +
            Polars.col("cohort")
        end

        def begun = @begun ||= @analysis.starts_in(@part)

        # By the code of the start times the number of places, plus the place.
        def cells(told)
          rows = @analysis.counted == "ranges" ? in_ranges(told) : counted(returned(told))
          Lifecycle::Tally.of(rows, (Polars.col("code") * @analysis.places.size) + Polars.col("place"))
        end

        # Every period in which there is a return after a start, once: `start`, its `code` and `period`.
        def returned(told) = @analysis.elapsed? ? elapsed(told) : by_calendar(told)

        def by_calendar(told)
          starts = told.select([*Cohorted::STARTS, "code"]).rename({ "occurred_at" => "began_at" })
          latest_returns.lazy.join(starts.lazy, on: "profile_id", how: "inner")
                        .filter(Polars.col("occurred_at") > Polars.col("began_at"))
                        .select([Polars.col("start"), Polars.col("code"),
                                 (Polars.col("step") - Polars.col("cohort")).alias("period")]).collect
        end

        # The last return of each step decides whether there is one after a start in it.
        def latest_returns
          @latest_returns ||= begin
            step = (@steps.index(Polars.col("day")) - 1).cast(Polars::Int64).alias("step")
            rows = returns.with_columns([step])
            profile, step = %w[profile_id step].map { |name| Polars.col(name) }
            last = ((profile != profile.shift(-1)) | (step != step.shift(-1))).fill_null(true)
            rows.filter(last)
          end
        end

        def returns = @analysis.return_to.rows(@part, @window)

        # Cohort by cohort, since everybody may begin in each.
        def elapsed(told)
          theirs = returns
          frames = (0...@analysis.cohorts).filter_map do |cohort|
            starts = told.filter(Polars.col("cohort") == cohort)
            elapsed_since(starts, theirs) if starts.height.positive?
          end
          frames.empty? ? elapsed_since(told, theirs) : Polars.concat(frames)
        end

        def elapsed_since(starts, theirs)
          began = starts.select(%w[start profile_id occurred_at code]).rename({ "occurred_at" => "began_at" })
          began_at, at = %w[began_at occurred_at].map { |name| Polars.col(name) }
          waited = at - began_at - 1 # a period ends with its last instant
          theirs.join(began, on: "profile_id", how: "inner").lazy.filter(at > began_at)
                .select([Polars.col("start"), Polars.col("code"), waited.floordiv(@analysis.elapsed).alias("period")])
                .filter(Polars.col("period") < @analysis.cohorts).unique.collect
        end

        # What of these counts at which place: as the question has it, but for *or later* and *by*, which {Line} adds up
        # from the last and the first period of each start.
        def counted(found)
          first = @analysis.places.first.begin
          place = (Polars.col("period") - first).alias("place")
          return found.select([Polars.col("code"), place]) if @analysis.counted == "in"

          found = in_order(found)
          found = found.filter(Polars.col("period") >= first) unless @analysis.counted == "and_before"
          start, period = %w[start period].map { |name| Polars.col(name) }
          same = (start == start.shift(1)).fill_null(false)
          kept = case @analysis.counted
                 when "or_later" then (start != start.shift(-1)).fill_null(true)
                 when "by" then same.is_not
                 when "and_before" then same & (period == period.shift(1) + 1)
                 when "every" then period == rank(same) + first
                 end
          found.filter(kept).select([Polars.col("code"), place])
        end

        # By start and period.
        def in_order(found)
          number = (Polars.col("start").cast(Polars::Int64) * @analysis.cohorts) + Polars.col("period")
          found.with_columns([number.alias("number")]).sort("number")
        end

        # How many periods of the same start lie before.
        def rank(same)
          row = Polars.int_range(Polars.lit(0), Polars.len)
          row - Polars.when(same.is_not).then(row).otherwise(nil).forward_fill
        end

        # Ranges may overlap.
        def in_ranges(told)
          found = returned(told)
          frames = @analysis.places.each_with_index.map do |range, at|
            found.filter(Polars.col("period").is_between(range.begin, range.end)).select(%w[start code]).unique
                 .with_columns([Polars.lit(at).cast(Polars::Int64).alias("place")])
          end
          Polars.concat(frames)
        end
      end
    end
  end
end
