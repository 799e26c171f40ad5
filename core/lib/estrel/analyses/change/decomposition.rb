# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # What the change of a number comes of, by one split: with so many people (or visits) of each group and so much
      # that each does, what comes of there being more of them (*size*), of another mix of groups (*mix*), and of
      # another behaviour in the groups (*behaviour*). The three add up to the change (E. M. Kitagawa, Components of a
      # difference between two rates, Journal of the American Statistical Association 50 (1955), 1168–1194; the same
      # formula once more parts how many there are of a group into how many there are at all and its share).
      class Decomposition
        # Groups of fewer people, or visits, in either period are not looked at by themselves.
        FEWEST = 50
        PERIODS = [0, 1].freeze
        FIGURES = %i[n y].freeze
        # From which p-value on, divided by its groups, one stands out of a split.
        LEVEL = 0.05
        private_constant :PERIODS, :FIGURES, :LEVEL
        # What one group does in both periods.
        Group = Struct.new(:at, :label, :n, :y)

        # @return [SplitByPeople, SplitByVisit]
        attr_reader :split
        # @return [Array<Array>] see {Lifecycle::Grouping.labels}
        attr_reader :labels

        # @param analysis [Change]
        # @param at [Integer] number of the split
        # @param labels [Array<Array>]
        # @param found [Hash{Symbol => Hash}] of {Counting#to_h}
        def initialize(analysis, at, labels, found)
          @analysis = analysis
          @split = analysis.splits[at]
          @labels = labels
          @found = found
        end

        # @return [Array<Group>] those of the labels, and the rest last; `n` and `y` of both periods
        def groups
          @groups ||= Array.new(size_of_groups) do |at|
            Group.new(at, labels[at], *FIGURES.map { |name| PERIODS.map { |period| blocks(name, period, at).sum } })
          end
        end

        # @return [Float]
        def size = whole[:size]

        # @return [Float]
        def mix = whole[:mix]

        # @return [Float]
        def behaviour = whole[:behaviour]

        # @return [Array<Reason>] the mix, and of each group that is large enough how much more was done than if it had
        #   changed as all others did. A group that does half of it or more is what others are compared with; one that
        #   stands out of its split is not, or the others would seem to differ from it.
        def reasons
          mix = Reason.new(self, nil, self.mix, left_out.map { |one| parts(one)[:mix] })
          found = of_groups(large, nil)
          odd = found.min_by(&:p_value)
          return [mix, *found] unless odd && odd.p_value <= LEVEL / found.size

          [mix, odd, *of_groups(large - [odd.group], odd.group.at)]
        end

        # @param group [Group]
        # @param period [Integer]
        # @return [Hash, nil] the condition, as JSON, of those who did it
        def people_in(group, period) = split.people_in(group.label, labels, @analysis.days(period), @analysis.selection)

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h = { name: split.name, size: size, mix: mix, behaviour: behaviour }

        private

        def large
          half = groups.sum { |group| group.y.sum } / 2.0
          groups.select { |group| group.n.min >= FEWEST && group.y.sum < half }
        end

        # @param without [Integer, nil] number of a group that the others are not compared with
        def of_groups(told, without)
          told.filter_map do |group|
            excess = excess(group.at, all, without)
            next unless excess.finite?

            Reason.new(self, group, excess, left_out.map { |one| excess(group.at, one, without) })
          end
        end

        def size_of_groups = labels.size + 1

        def blocks(name, period, group)
          first = Counting.code(period, group, size_of_groups)
          Array.new(Counting::BLOCKS) { |block| @found[name].fetch(first + block, 0) }
        end

        def whole = @whole ||= parts(all)

        # @return [Array<Array(Numeric, Numeric, Numeric, Numeric)>] of each group, n and y before, n and y after
        def all = @all ||= groups.map { |group| [group.n[0], group.y[0], group.n[1], group.y[1]] }

        # @return [Array<Array<Array>>] the same without each block, as if there were as many as with it
        def left_out
          @left_out ||= begin
            of_blocks = groups.map do |group|
              PERIODS.flat_map { |period| FIGURES.map { |name| blocks(name, period, group.at) } }
            end
            scale = Counting::BLOCKS.fdiv(Counting::BLOCKS - 1)
            Array.new(Counting::BLOCKS) do |block|
              all.zip(of_blocks).map { |sums, each| sums.zip(each).map { |sum, own| (sum - own[block]) * scale } }
            end
          end
        end

        def parts(groups)
          before, after = [0, 2].map { |at| groups.sum { |group| group[at] }.to_f }
          each = groups.map { |group| of_group(group, rates(*group), before, after) }
          %i[size mix behaviour].zip(each.transpose.map(&:sum)).to_h
        end

        # What of each part comes of one group.
        def of_group(group, rates, before, after)
          return [0.0, 0.0, group[3] - group[1]] unless rates

          one = share(group[0], before)
          other = share(group[2], after)
          mean = rates.sum / 2
          [(after - before) * (one + other) / 2 * mean, (other - one) * (before + after) / 2 * mean,
           (rates[1] - rates[0]) * (group[0] + group[2]) / 2.0]
        end

        def share(number, all) = all.zero? ? 0.0 : number / all

        # What each of a group does; where there was nobody in one of the periods, as in the other.
        def rates(before, done_before, after, done_after)
          one = done_before / before.to_f if before.positive?
          other = done_after / after.to_f if after.positive?
          [one || other, other || one] if one || other
        end

        # How much more a group did than if what each does had changed by the same ratio as in all other groups, these
        # being as many as they are on average.
        def excess(at, groups, without)
          own = groups[at]
          rates = rates(*own) or return Float::NAN
          others = groups.each_with_index.reject { |_, index| index == at || index == without }
                         .map { |group, _| [group, rates(*group)] }
          before, after = PERIODS.map do |period|
            others.sum { |group, told| told ? told[period] * (group[0] + group[2]) : 0.0 }
          end
          before.zero? ? Float::NAN : own[2] * (rates[1] - (rates[0] * after / before))
        end
      end
    end
  end
end
