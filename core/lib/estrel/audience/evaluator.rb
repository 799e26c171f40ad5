# frozen_string_literal: true

module Estrel
  module Audience
    # Finds who fits a definition as of a date.
    #
    # Every clause becomes a column of booleans over the ledger's profiles; groups combine the columns. Columns are
    # remembered in the generation's cache by clause, date and policy, so while a sentence is being edited only the
    # clause that changed is computed. Only people first seen by the as-of date can be members.
    class Evaluator
      # The visit gap where the workspace has not set one, microseconds.
      VISIT_GAP = 30 * 60 * Calendar::MICROS

      # @return [Date]
      attr_reader :as_of
      # @return [Calendar]
      attr_reader :calendar

      # @param generation [Ledger::Generation]
      # @param as_of [Date]
      # @param policy [Lifecycle::Policy, nil] needed by lifecycle clauses only
      # @param visit_gap [Integer] the longest quiet time inside a visit, microseconds
      def initialize(generation, as_of:, policy: nil, visit_gap: VISIT_GAP)
        @generation = generation
        @as_of = as_of
        @policy = policy
        @visit_gap = visit_gap
        @calendar = generation.calendar
      end

      # @param definition [Definition]
      # @return [Polars::Series] sorted profile ids
      def members(definition) = @generation.profiles["profile_id"].filter(seen(as_of) & mask(definition.root))

      # @param definition [Definition]
      # @return [Integer]
      def size(definition) = count(seen(as_of) & mask(definition.root))

      # @return [Integer] people first seen by the as-of date
      def base = count(seen(as_of))

      # How many people are left after each top-level clause of a definition, in order, and how many fit each alone.
      #
      # @param definition [Definition]
      # @return [Array<Hash{Symbol => Integer}>] `{left:, alone:}` per clause
      def steps(definition)
        seen = seen(as_of)
        left = seen
        definition.clauses.map do |clause|
          own = mask(clause)
          left &= own
          { left: count(left), alone: count(seen & own) }
        end
      end

      # How many people may still become members because the time in which they must not do something has not passed.
      #
      # @param definition [Definition]
      # @return [Integer]
      def undecided(definition)
        return 0 if orders(definition.root).none?(&:absence)

        possible = definition.clauses.map do |clause|
          [mask(clause), *orders(clause).select(&:absence).map { |order| order.undecided(self) }].reduce(:|)
        end
        count(possible.reduce(seen(as_of), :&) & invert(mask(definition.root)))
      end

      # @param definition [Definition]
      # @return [Hash{String => Integer}] members per state of {Lifecycle::STATES}; empty without a policy
      def state_mix(definition)
        return {} unless @policy

        counts = lifecycle.states(as_of)["state"].filter(seen(as_of) & mask(definition.root)).to_a.tally
        Lifecycle::STATES.to_h { |state| [state, counts.fetch(state, 0)] }
      end

      # @param clause [Object] a clause of the tree
      # @return [Polars::Series] booleans over the ledger's profiles
      def mask(clause)
        @generation.cache.fetch([:mask, clause.key, @as_of, @policy&.key, @visit_gap]) { clause.mask(self) }
      end

      # @return [Polars::DataFrame] of an event type, see {Ledger::Generation#events}
      def events(type) = @generation.events(type)

      # @return [Catalogue]
      def catalogue = @generation.catalogue

      # @return [Polars::DataFrame] `profile_id` and `first_seen_day` of everybody
      def first_seen = @generation.profiles.select(%w[profile_id first_seen_day])

      # @return [Lifecycle] under the policy in force
      def lifecycle
        raise Error, "a lifecycle clause needs a lifecycle policy" unless @policy

        Lifecycle.new(@generation, @policy)
      end

      # @return [Visits::Index]
      def visits = @generation.cache.fetch([:visits, @visit_gap]) { Visits::Index.new(@generation, @visit_gap) }

      # @return [Ledger::Timeline]
      def timeline = @generation.timeline

      # When the profile of each row did anything at all before it.
      #
      # @param rows [Polars::DataFrame] `profile_id` and `occurred_at`, sorted
      # @return [Polars::Series] `previous_at`, the latest earlier instant of any of the profile's events, or null
      def previous_instants(rows)
        found = catalogue.event_types.each_key.map do |type|
          instants = events(type).select(%w[profile_id occurred_at])
          timeline.look_back(rows, Polars.col("occurred_at") - 1, instants, "previous_at")["previous_at"]
        end
        columns = found.each_with_index.map { |series, index| series.alias(index.to_s) }
        Polars::DataFrame.new(columns).select([Polars.max_horizontal(Polars.all).alias("previous_at")])["previous_at"]
      end

      # @param ids [Polars::Series] profile ids
      # @return [Polars::Series] booleans over the ledger's profiles: true where the profile is among the ids
      def membership(ids) = @generation.profiles["profile_id"].is_in(ids)

      # @return [Polars::Series] the same boolean for every profile
      def constant(boolean) = Polars::Series.new("mask", [boolean] * @generation.base_size, dtype: Polars::Boolean)

      # @param mask [Polars::Series] booleans, no nulls
      # @return [Polars::Series]
      def invert(mask) = mask.to_frame.select([Polars.col(mask.name).is_not.alias("mask")])["mask"]

      # The value an attribute had at the end of the as-of date, one row per profile.
      #
      # @param name [String]
      # @param type [String]
      # @return [Polars::DataFrame] with the column `value`
      def attribute_values(name, type) = AttributeValues.new(@generation).at(@as_of, name, type)

      # Every value an attribute has had by the end of the as-of date.
      #
      # @param name [String]
      # @param type [String]
      # @return [Polars::DataFrame] `profile_id` and the typed column `value`
      def attribute_history(name, type) = AttributeValues.new(@generation).until(@as_of, name, type)

      # Every value an attribute has had by the end of the as-of date, with the one before it.
      #
      # @param name [String]
      # @param type [String]
      # @return [Polars::DataFrame] see {AttributeValues#steps}
      def attribute_steps(name, type) = AttributeValues.new(@generation).steps(@as_of, name, type)

      # @param date [Date]
      # @return [Polars::Series] booleans over the ledger's profiles: who had been seen by the end of the date
      def seen(date)
        @generation.cache.fetch([:seen, date]) do
          day = Calendar.number(date)
          @generation.profiles.select([(Polars.col("first_seen_day") <= day).alias("mask")])["mask"]
        end
      end

      private

      def orders(clause)
        case clause
        when Clause::Group then clause.clauses.flat_map { |inner| orders(inner) }
        when Clause::Negation then orders(clause.clause)
        when Clause::Order then [clause]
        else []
        end
      end

      def count(mask) = mask.sum || 0
    end
  end
end
