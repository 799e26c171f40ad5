# frozen_string_literal: true

module Estrel
  class Ledger
    # Brings rows into a sorted frame of events, and takes the rows of some profiles out of it, without sorting the
    # whole anew: only the few profiles that are touched are put in order, everything between is taken over as it is.
    module Splice
      # Beyond so many touched profiles sorting everything is cheaper, and where there are so few rows for each of them.
      MAX_PROFILES = 5_000
      ROWS_EACH = 500

      module_function

      # @param frame [Polars::DataFrame]
      # @param profiles [Integer] how many of its profiles are touched
      # @return [Boolean] whether putting these in order is cheaper than putting all in order
      def worth?(frame, profiles)
        frame.height.positive? && profiles <= MAX_PROFILES && frame.height >= profiles * ROWS_EACH
      end

      # @param sorted [Polars::DataFrame] in {Layout::EVENT_ORDER}
      # @param rows [Polars::DataFrame] of the same columns, in any order
      # @return [Polars::DataFrame] both, in {Layout::EVENT_ORDER}
      def insert(sorted, rows)
        return sorted if rows.height.zero?

        profiles = rows["profile_id"].unique.sort
        return Polars.concat([sorted, rows]).sort(Layout::EVENT_ORDER) unless worth?(sorted, profiles.len)

        Polars.concat(pieces(sorted, rows.sort(Layout::EVENT_ORDER), profiles))
      end

      # @param frame [Polars::DataFrame] sorted by `profile_id`
      # @param rows [Polars::DataFrame] likewise, of some of the profiles only
      # @param profiles [Polars::Series] sorted ids, of these and of others that have no rows any more
      # @return [Polars::DataFrame] the frame with these rows in the place of those of the profiles
      def replace(frame, rows, profiles)
        before, after = [frame, rows].map { |one| Rows.bounds(one, profiles).rows }
        done = 0
        pieces = before.zip(after).flat_map do |(from, to), (first, last)|
          [frame.slice(done, from - done), rows.slice(first, last - first)].tap { done = to }
        end
        pieces << frame.slice(done, frame.height - done)
        Polars.concat([frame.head(0), *pieces.reject { |piece| piece.height.zero? }]).rechunk
      end

      # @param frame [Polars::DataFrame] of events
      # @param profiles [Array<Integer>]
      # @return [Polars::DataFrame] the rows of all others; the same frame where none are of the profiles
      def without(frame, profiles)
        return frame if profiles.empty?

        others = frame.select([Polars.col("profile_id").is_in(profiles).is_not.alias("others")])["others"]
        others.all ? frame : frame.filter(others)
      end

      def pieces(sorted, rows, profiles)
        starts, ends = Rows.bounds(sorted, profiles).get_columns.map(&:to_a)
        pieces = []
        done = 0
        rows.partition_by("profile_id", maintain_order: true).each_with_index do |fresh, index|
          pieces << sorted.slice(done, starts[index] - done) if starts[index] > done
          known = sorted.slice(starts[index], ends[index] - starts[index])
          pieces << (known.height.zero? ? fresh : Polars.concat([known, fresh]).sort(Layout::EVENT_ORDER))
          done = ends[index]
        end
        done < sorted.height ? pieces << sorted.slice(done, sorted.height - done) : pieces
      end
      private_class_method :pieces
    end
  end
end
