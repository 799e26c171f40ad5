# frozen_string_literal: true

module Estrel
  module Audience
    # Finds who fits a definition as of a date.
    #
    # Every clause becomes a column of booleans over the ledger's profiles; groups combine the columns. Columns are
    # remembered in the generation's cache by clause, date and policy, so while a sentence is being edited only the
    # clause that changed is computed. Only people first seen by the as-of date can be members.
    class Evaluator
      # @return [Date]
      attr_reader :as_of
      # @return [Calendar]
      attr_reader :calendar

      # @param generation [Ledger::Generation]
      # @param as_of [Date]
      # @param policy [Lifecycle::Policy, nil] needed by lifecycle clauses only
      def initialize(generation, as_of:, policy: nil)
        @generation = generation
        @as_of = as_of
        @policy = policy
        @calendar = generation.calendar
      end

      # @param definition [Definition]
      # @return [Polars::Series] sorted profile ids
      def members(definition) = @generation.profiles["profile_id"].filter(seen & mask(definition.root))

      # @param definition [Definition]
      # @return [Integer]
      def size(definition) = count(seen & mask(definition.root))

      # @return [Integer] people first seen by the as-of date
      def base = count(seen)

      # How many people are left after each top-level clause of a definition, in order, and how many fit each alone.
      #
      # @param definition [Definition]
      # @return [Array<Hash{Symbol => Integer}>] `{left:, alone:}` per clause
      def steps(definition)
        left = seen
        definition.clauses.map do |clause|
          own = mask(clause)
          left &= own
          { left: count(left), alone: count(seen & own) }
        end
      end

      # @param clause [Object] a clause of the tree
      # @return [Polars::Series] booleans over the ledger's profiles
      def mask(clause)
        @generation.cache.fetch([:mask, clause.to_h, @as_of, @policy&.key]) { clause.mask(self) }
      end

      # @return [Polars::DataFrame] of an event type, see {Ledger::Generation#events}
      def events(type) = @generation.events(type)

      # @return [Polars::DataFrame] see {Lifecycle#states}
      def states
        raise Error, "a lifecycle clause needs a lifecycle policy" unless @policy

        Lifecycle.new(@generation, @policy).states(@as_of)
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

      private

      def seen
        @generation.cache.fetch([:seen, @as_of]) do
          day = Calendar.number(@as_of)
          @generation.profiles.select([(Polars.col("first_seen_day") <= day).alias("mask")])["mask"]
        end
      end

      def count(mask) = mask.sum || 0
    end
  end
end
