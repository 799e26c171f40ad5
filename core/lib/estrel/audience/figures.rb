# frozen_string_literal: true

module Estrel
  module Audience
    # Everything that is counted of definitions, from the columns of booleans an {Evaluator} gives. All of it adds up
    # over the parts of a ledger.
    module Figures
      # @param definition [Definition]
      # @return [Polars::Series] sorted profile ids
      def members(definition) = ids.filter(inside(definition))

      # @param definition [Definition]
      # @return [Integer]
      def size(definition) = count(inside(definition))

      # @return [Integer] people first seen by the as-of date
      def base = count(seen(as_of))

      # How many people are left after each top-level condition of a definition, in order, how many fit each alone, and
      # what is inside it.
      #
      # @param definition [Definition]
      # @return [Array<Hash{Symbol => Object}>] `{left:, alone:, inner:}` per condition; inner is a list of
      #   `{alone:, adds:, inner:}`, where `adds` tells, for the branches of an `any`, how many no other branch brings
      def steps(definition)
        left = seen(as_of)
        definition.conditions.map do |condition|
          left &= mask(condition)
          { left: count(left), **inner_steps(condition) }
        end
      end

      # How many people may still become members because the time in which they must not do something has not passed.
      #
      # @param definition [Definition]
      # @return [Integer]
      def undecided(definition)
        return 0 if definition.root.awaiting.empty?

        possible = definition.conditions.map do |condition|
          awaiting = condition.awaiting.map { |order| of_each { |evaluator| order.undecided(evaluator) } }
          [mask(condition), *awaiting].reduce(:|)
        end
        count(possible.reduce(seen(as_of), :&) & invert(mask(definition.root)))
      end

      # What is found of the lists written down in a definition.
      #
      # @param definition [Definition]
      # @return [Array<Array<String>>] identifiers, for each of {Condition#lists}
      def listed(definition) = definition.root.lists.map { |list| list.found(self) }

      # @param definition [Definition]
      # @return [Hash{String => Integer}] members per state of {Lifecycle::STATES}; empty without a rule set
      def state_mix(definition)
        return {} unless states?

        counts = states(as_of)["state"].filter(inside(definition)).to_a.tally
        Lifecycle::STATES.to_h { |state| [state, counts.fetch(state, 0)] }
      end

      # @param definition [Definition]
      # @return [Hash{String => Integer}] members that can be reached, per channel of {Reach::CHANNELS}
      def reachable(definition)
        members = inside(definition)
        Reach::CHANNELS.to_h { |channel| [channel, count(members & reachable_over(channel))] }
      end

      # How many people are in each exact combination of several definitions.
      #
      # @param definitions [Array<Definition>]
      # @param split [Split, nil] counts each combination once per value as well
      # @return [Hash{Array => Integer}] people per combination, a number whose bit i says "in definition i", and value
      #   (nil without a split, or where it is not set)
      def combinations(definitions, split = nil)
        frame = Polars::DataFrame.new(definitions.each_with_index.map { |one, bit| mask(one.root).alias("in #{bit}") })
        bits = frame.columns.each_with_index.map { |name, bit| Polars.col(name).cast(Polars::Int32) * (1 << bit) }
        code = frame.select([bits.sum(Polars.lit(0)).alias("code")])["code"]
        value = split ? values_of(split) : Polars::Series.new("value", [nil] * code.len, dtype: Polars::String)
        frame = Polars::DataFrame.new([code, value]).filter(seen(as_of))
        frame.group_by(%w[code value]).agg([Polars.len.alias("n")]).rows.to_h { |bits, text, n| [[bits, text], n] }
      end

      # Who has come and who has gone since an earlier date, and which condition turned.
      #
      # @param definition [Definition]
      # @param from [Date]
      # @return [Hash{Symbol => Object}] `{before:, after:, entered:, left:}`; both of the last are
      #   `{count:, never_active:, conditions:}`: how many had not been seen by the earlier date, and for how many each
      #   top-level condition turned
      def movement(definition, from)
        earlier = at(from)
        was, is = [earlier, self].map { |evaluator| evaluator.inside(definition) }
        entered = is & invert(was)
        left = was & invert(is)
        { before: count(was), after: count(is),
          entered: turned(entered, definition, earlier, self), left: turned(left, definition, self, earlier) }
      end

      # The people of {#movement}.
      #
      # @param definition [Definition]
      # @param from [Date]
      # @return [Hash{Symbol => Polars::Series}] `{entered:, left:}`: profile ids
      def moved(definition, from)
        was, is = [at(from), self].map { |evaluator| evaluator.inside(definition) }
        { entered: ids.filter(is & invert(was)), left: ids.filter(was & invert(is)) }
      end

      # Where conditions that cost little leave few people, those that cost much are asked of these only.
      #
      # @param definition [Definition]
      # @return [Polars::Series] booleans over the ledger's profiles: the members
      def inside(definition)
        costly, cheap = definition.conditions.partition(&:costly?)
        return seen(as_of) & mask(definition.root) if costly.empty? || cheap.empty?

        of_each { |evaluator| evaluator.narrowed(definition, cheap, costly) }
      end

      protected

      def narrowed(definition, cheap, costly)
        remembered([:inside, definition.root.key, states? && rule_set.key]) do
          left = cheap.map { |condition| mask(condition) }.reduce(seen(as_of), :&)
          if count(left) * FEW <= left.len then membership(fitting(ids.filter(left), costly))
          else costly.map { |condition| mask(condition) }.reduce(left, :&)
          end
        end
      end

      private

      # How many times fewer people than there are are few.
      FEW = 10
      private_constant :FEW

      # Those of some people for whom all of some conditions hold.
      def fitting(people, conditions)
        asked = among(people)
        people.filter(conditions.map { |condition| asked.mask(condition) }.reduce(:&))
      end

      # For whom among some people each condition holds in one evaluation and did not in the other.
      def turned(people, definition, without, with)
        conditions = definition.conditions.map do |condition|
          count(people & with.mask(condition) & invert(without.mask(condition)))
        end
        { count: count(people), never_active: count(people & invert(without.seen(without.as_of))),
          conditions: conditions }
      end

      def inner_steps(condition)
        branches = condition.branches.map(&:last)
        additions = condition.to_h.key?("any") ? additions(branches) : []
        inner = branches.each_with_index.map { |branch, index| { **inner_steps(branch), adds: additions[index] } }
        { alone: count(seen(as_of) & mask(condition)), inner: inner }
      end

      # How many people each of some alternatives brings that no other brings.
      def additions(branches)
        masks = branches.map { |branch| seen(as_of) & mask(branch) }
        masks.each_index.map do |index|
          others = masks.each_with_index.filter_map { |mask, other| mask unless other == index }
          count(others.reduce(masks[index]) { |left, other| left & invert(other) })
        end
      end

      def count(mask) = mask.sum || 0
    end
  end
end
