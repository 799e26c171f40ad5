# frozen_string_literal: true

module Estrel
  module Analyses
    class Trends
      # One line of the picture: a series, or two combined, of one group. `values` stand in the order of the periods,
      # nil where there is nothing to tell, and `people` says how many people each is of; `mean` is of the periods that
      # findings may rest on, `total` of the whole range, `behind` what lies behind, and `shares` what part of all lines
      # each value is. `did` is the condition, as JSON, of who did it at any time. Frozen.
      Line = Struct.new(:series, :name, :group, :values, :people, :mean, :total, :behind, :shares, :did,
                        keyword_init: true) do
        # @return [Hash{Symbol => Object}] plain JSON
        def to_h = { **super.except(:people, :did), group: group.except(:where, :pairs) }

        # @param from [Date]
        # @param to [Date]
        # @return [Hash] the condition, as JSON, of who did it in these days
        def people_in(from, to)
          window = { "from" => from.iso8601, "to" => to.iso8601 }
          return did_in(window) if group[:people_in] == { "all" => [] }
          return { "all" => [group[:people_in], did_in(window)] } unless group[:pairs]

          { "any" => group[:pairs].map { |people, where| { "all" => [people, did_in(window, where)] } } }
        end

        private

        def did_in(window, more = [])
          kind, body = did.first
          { kind => { **body, "where" => [*body["where"], *more], "window" => window } }
        end
      end
    end
  end
end
