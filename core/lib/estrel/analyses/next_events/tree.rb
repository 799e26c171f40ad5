# frozen_string_literal: true

module Estrel
  module Analyses
    class NextEvents
      # The ways people went, as branches: at each place the most frequent ones, and the others put together.
      class Tree
        # @param analysis [NextEvents]
        # @param found [Hash] of all parts, see {Paths#found}
        # @param waits [Waits, nil] by the place of a way among {#ways}, in order
        # @param near [Sum::Rows, nil] see {Waits.near}
        def initialize(analysis, found, waits = nil, near = nil)
          @analysis = analysis
          @found = found
          @waits = waits
          @near = near
          @types = analysis.workspace.catalogue.event_types.values.to_h { |type| [type.id, type.name] }
          @base = Paths.base(analysis.workspace.catalogue)
          @children = found[:times].keys.reject(&:zero?).group_by { |way| way / @base }
        end

        # @return [Integer] how often what it begins with was done
        def times = @found[:times].fetch(0, 0)

        # @return [Integer]
        def people = @found[:people].fetch(0, 0)

        # @return [Integer] how often nothing came next
        def ended = times - @found[:went_on].fetch(0, 0)

        # @return [Hash{Symbol => Integer}, nil] event types put together, and how often one of them came next
        def other = other_of(0)

        # @return [Array<Branch>] the most frequent first
        def branches = @branches ||= branches_of(0, [])

        # @param way [Integer]
        # @return [Array<Integer>] the ways beyond it that are told one by one
        def ways(way = 0) = shown(way).flat_map { |child| [child, *ways(child)] }

        # @return [Array<Array(Array<String>, Branch)>] every way by the names along it, depth first
        def paths(list = branches, before = [])
          list.flat_map do |branch|
            names = [*before, branch.name]
            [[names, branch], *paths(branch.branches, names)]
          end
        end

        private

        def sorted(way)
          (@children[way] || []).sort_by { |child| [-@found[:times].fetch(child), child] }
        end

        def shown(way) = sorted(way).first(TOP)

        def branches_of(way, events)
          shown(way).map { |child| branch(child, [*events, @types.fetch(child % @base)]) }
        end

        def branch(way, events)
          times = @found[:times].fetch(way)
          last = events.size == @analysis.depth
          Branch.new(event: events.last, name: @analysis.workspace.catalogue.names.event(events.last), times: times,
                     share: times.fdiv(@found[:times].fetch(way / @base)), people: @found[:people].fetch(way),
                     wait: median(way), did: @analysis.did(events),
                     ended: (times - @found[:went_on].fetch(way, 0) unless last), other: other_of(way),
                     branches: branches_of(way, events), audiences: events.one? ? audiences(way) : []).freeze
        end

        def other_of(way)
          rest = sorted(way).drop(TOP)
          rest.empty? ? nil : { types: rest.size, times: rest.sum { |child| @found[:times].fetch(child) } }
        end

        def audiences(way)
          @found[:audiences].map do |told|
            all = told[:times].fetch(0, 0)
            { people: told[:people].fetch(way, 0), share: all.zero? ? nil : told[:times].fetch(way, 0).fdiv(all) }
          end
        end

        # Of how long the last step took, in seconds.
        def median(way)
          @codes ||= ways.sort.each_with_index.to_h
          @waits.quantile(@codes.fetch(way), MEDIAN, @near)
        end
      end
    end
  end
end
