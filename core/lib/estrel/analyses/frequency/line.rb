# frozen_string_literal: true

module Estrel
  module Analyses
    class Frequency
      # One series of one group: `counts` and `shares` per bucket of those who did it, or of all where these are asked
      # about; `behind` the shares of the days before, `over` the shares of each period, `mean` and `median` of those
      # who did it. `did` is the condition, as JSON, without its count. Frozen.
      Line = Struct.new(:series, :name, :group, :people, :counts, :shares, :behind, :over, :mean, :median, :did,
                        keyword_init: true) do
        # @return [Hash{Symbol => Object}] plain JSON
        def to_h = { **super.except(:did), group: group.except(:where, :pairs) }

        # @param range [Range<Integer>] a bucket
        # @param unit [String]
        # @param where [Array<Hash>] filters, as JSON, of what the group did
        # @return [Hash] the condition, as JSON, of having done it so often
        def did_so_often(range, unit, where)
          count = if range.end.nil? then { "at_least" => range.begin }
                  elsif range.begin == range.end then { "exactly" => range.begin }
                  else { "between" => [range.begin, range.end] }
                  end
          count = { **count, "of" => unit } unless unit == "events"
          { "did" => { **did["did"], "where" => [*did["did"]["where"], *where], "count" => count } }
        end
      end
    end
  end
end
