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
        def to_h = { **super.except(:did), group: group.except(:where) }

        # @param range [Range<Integer>] a bucket
        # @param unit [String]
        # @return [Hash] the condition, as JSON, of whoever is in it
        def people_in(range, unit)
          count = if range.end.nil? then { "at_least" => range.begin }
                  elsif range.begin == range.end then { "exactly" => range.begin }
                  else { "between" => [range.begin, range.end] }
                  end
          count = { **count, "of" => unit } unless unit == "events"
          condition = { "did" => { **did["did"], "count" => count } }
          group[:kind] == "all" ? condition : { "all" => [group[:people_in], condition] }
        end
      end
    end
  end
end
