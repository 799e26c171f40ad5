# frozen_string_literal: true

module Estrel
  class Ledger
    # Finds the rows of some profiles in a sorted frame by halving. A frame is sorted by a column that begins with the
    # profile: "profile_id" itself, or "key", the profile times {Layout::KEY_STEP} plus a day.
    module Rows
      module_function

      # @param frame [Polars::DataFrame]
      # @param range [Range<Integer>] of profile ids, its end included
      # @param column [String]
      # @return [Polars::DataFrame] a stretch of the frame; nothing is copied
      def between(frame, range, column = "profile_id")
        step = step(column)
        bounds = Polars.lit([range.begin * step, (range.end + 1) * step])
        first, last = frame.select([Polars.col(column).search_sorted(bounds, side: "left").alias("at")])["at"].to_a
        frame.slice(first, [last - first, 0].max)
      end

      # @param frame [Polars::DataFrame]
      # @param ids [Polars::Series] sorted profile ids
      # @param column [String]
      # @return [Polars::DataFrame] the rows of these profiles
      def of(frame, ids, column = "profile_id")
        frame.select([Polars.all.gather(numbers(bounds(frame, ids, column)))])
      end

      # @param frame [Polars::DataFrame]
      # @param ids [Polars::Series] sorted profile ids
      # @param column [String]
      # @return [Polars::DataFrame] `start` of each profile's rows, and `after` them
      def bounds(frame, ids, column = "profile_id")
        step = step(column)
        found = %w[start after].each_with_index.map do |name, next_one|
          bounds = (ids + next_one) * step
          frame.select([Polars.col(column).search_sorted(bounds, side: "left").cast(Polars::Int64).alias(name)])[name]
        end
        Polars::DataFrame.new(found)
      end

      def step(column) = column == "key" ? Layout::KEY_STEP : 1
      private_class_method :step

      # The numbers of the rows from every start up to what comes after.
      def numbers(ranges)
        length = Polars.col("after") - Polars.col("start")
        shifted = ranges.with_columns([length.alias("length"), (length.cum_sum - length).alias("before")])
                        .filter(Polars.col("length") != 0)
                        .select([(Polars.col("start") - Polars.col("before")).repeat_by("length").alias("shift")])
        shift = shifted.explode("shift")["shift"]
        Polars.arange(0, shift.len, eager: true) + shift
      end
      private_class_method :numbers
    end
  end
end
