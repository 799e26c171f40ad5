# frozen_string_literal: true

module Estrel
  class Ledger
    # Finds the rows of some profiles in a frame that is sorted by `profile_id`, by halving.
    module Rows
      module_function

      # @param frame [Polars::DataFrame]
      # @param range [Range<Integer>] of profile ids, its end included
      # @return [Polars::DataFrame] a stretch of the frame; nothing is copied
      def between(frame, range)
        first, last = found(frame, Polars::Series.new("bound", [range.begin, range.end + 1], dtype: Polars::Int64)).to_a
        frame.slice(first, [last - first, 0].max)
      end

      # @param frame [Polars::DataFrame]
      # @param ids [Polars::Series] sorted profile ids
      # @return [Polars::DataFrame] the rows of these profiles
      def of(frame, ids)
        frame.select([Polars.all.gather(numbers(bounds(frame, ids)))])
      end

      # @param frame [Polars::DataFrame]
      # @param ids [Polars::Series] sorted profile ids
      # @return [Integer] how many rows these profiles have
      def count(frame, ids)
        bounds(frame, ids).select([(Polars.col("after") - Polars.col("start")).sum.alias("rows")])["rows"][0]
      end

      # @param frame [Polars::DataFrame]
      # @param ids [Polars::Series] sorted profile ids
      # @return [Polars::DataFrame] `start` of each profile's rows, and `after` them
      def bounds(frame, ids)
        Polars::DataFrame.new([found(frame, ids).alias("start"), found(frame, ids + 1).alias("after")])
      end

      # The first row of each id, or of what comes after it.
      def found(frame, ids)
        ids = ids.cast(frame["profile_id"].dtype)
        frame.select([Polars.col("profile_id").search_sorted(ids, side: "left").cast(Polars::Int64).alias("at")])["at"]
      end
      private_class_method :found

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
