# frozen_string_literal: true

module Estrel
  module Audience
    # Finds who fits a definition as of a date.
    #
    # Every condition becomes a column of booleans over the ledger's profiles; groups combine the columns. Columns are
    # remembered in the generation's cache by condition, date and rule set, so while a sentence is being edited only the
    # condition that changed is computed. Only people first seen by the as-of date can be members.
    #
    # Everything it counts adds up over the parts of a ledger, see {PartByPart}.
    class Evaluator
      include Figures

      # @return [Date]
      attr_reader :as_of
      # @return [Calendar]
      attr_reader :calendar
      # @return [Lifecycle::RuleSet, nil] the default one
      attr_reader :rule_set
      # @return [Budget]
      attr_reader :budget

      # @param generation [Ledger::Readable]
      # @param as_of [Date]
      # @param rule_set [Lifecycle::RuleSet, nil] needed by lifecycle conditions only
      # @param budget [Budget] asked before every condition that has to be computed
      def initialize(generation, as_of:, rule_set: nil, budget: Budget::NONE)
        @generation = generation
        @as_of = as_of
        @rule_set = rule_set
        @budget = budget
        @calendar = generation.calendar
      end

      # The same question, of some people only.
      #
      # @param ids [Polars::Series] sorted profile ids
      # @return [Evaluator]
      def among(ids)
        of(@generation.picked(ids))
      end

      # The same question, of one part of the ledger after the other.
      #
      # @param people [Integer] how many a part has at most
      # @return [Array<Evaluator>]
      def in_parts(people) = @generation.in_parts(people: people).map { |part| of(part) }

      # The same question, of those only whom the default rule set is about.
      #
      # @return [Evaluator]
      def within_rule_set
        of(lifecycle.ledger)
      end

      # The same question as of another date.
      #
      # @param date [Date]
      # @return [Evaluator]
      def at(date)
        self.class.new(@generation, as_of: date, rule_set: @rule_set, budget: @budget)
      end

      # @param condition [Object] a condition of the tree
      # @return [Polars::Series] booleans over the ledger's profiles
      def mask(condition)
        @generation.cache.fetch([:mask, condition.key, @as_of, @rule_set&.key]) do
          @budget.check
          of_each { |part| part.equal?(self) ? condition.mask(self) : part.mask(condition) }
        end
      end

      # What is told of every person by themselves. Of a ledger with a tail both parts are asked apart, so that what is
      # remembered of the base stays good.
      #
      # @yieldparam evaluator [Evaluator]
      # @yieldreturn [Polars::Series, Polars::DataFrame] a row for each profile
      # @return [Polars::Series, Polars::DataFrame] likewise
      def of_each
        return yield(self) unless ledger.is_a?(Ledger::WithTail)

        ledger.join(*[ledger.base, ledger.tail].map { |part| yield(of(part)) })
      end

      # The same question to another ledger.
      #
      # @param ledger [Ledger::Readable]
      # @return [Evaluator]
      def of(ledger) = self.class.new(ledger, as_of: as_of, rule_set: @rule_set, budget: @budget)

      # Remembers something that several conditions may rest on.
      #
      # @param key [Array] names it completely, but for the as-of date
      # @yieldreturn [Object]
      # @return [Object]
      def remembered(key, &) = @generation.cache.fetch([*key, @as_of], &)

      # @return [Ledger::Readable] what is asked
      def ledger = @generation

      # @param kind [String] of identifier
      # @return [Polars::Series, nil] the first of everybody; nil where nobody has one
      def identifiers(kind)
        name = Ledger::Layout.identifier(kind)
        ledger.profiles[name] if ledger.profiles.columns.include?(name)
      end

      # @return [Polars::DataFrame] of an event type, see {Ledger::Generation#events}
      def events(type) = @generation.events(type)

      # @return [Catalogue]
      def catalogue = @generation.catalogue

      # @return [Names]
      def names = catalogue.names

      # @return [Polars::DataFrame] `profile_id` and `first_seen_day` of everybody
      def first_seen = @generation.profiles.select(%w[profile_id first_seen_day])

      # @param rule_set [Lifecycle::RuleSet, nil] nil for the default one
      # @return [Lifecycle] of the people the rule set is about, at the end of the as-of date
      def lifecycle(rule_set = nil)
        rule_set ||= @rule_set or raise Error, "lifecycle conditions need a rule set"
        Lifecycle.new(rule_set.limited? ? people_of(rule_set) : @generation, rule_set)
      end

      # @param date [Date]
      # @param rule_set [Lifecycle::RuleSet, nil] nil for the default one
      # @return [Polars::DataFrame] `state` and `reactivated` of everybody at the end of a date; null for whom the rule
      #   set is not about
      def states(date, rule_set = nil) = of_each { |evaluator| evaluator.own_states(date, rule_set) }

      # @return [Polars::DataFrame] see {Ledger::Readable#events_beside}
      def events_beside(...) = @generation.events_beside(...)

      # @return [Polars::Series] the type of each profile
      def profile_types = @generation.profiles["profile_type"]

      # @return [Polars::Series] everybody's profile id
      def ids = @generation.ids

      # @return [Reach] at the end of the as-of date
      def reach = Reach.new(@generation, as_of)

      # @return [Boolean] whether there is a rule set, so that people have states
      def states? = !@rule_set.nil?

      # @return [Ledger::Timeline]
      def timeline = @generation.timeline

      # @param ids [Polars::Series] profile ids
      # @return [Polars::Series] booleans over the ledger's profiles: true where the profile is among the ids
      def membership(ids) = self.ids.is_in(ids)

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

      # @param definition [Definition]
      # @param label [Object]
      # @return [Lifecycle::Grouping] its members
      def group(definition, label)
        remembered([:group, definition.root.key, @rule_set&.key, label]) do
          Lifecycle::Grouping.members(@generation, seen(as_of) & mask(definition.root), label,
                                      key: known(definition.root.key))
        end
      end

      # @param split [Split]
      # @return [Hash{String, nil => Integer}] people seen by the as-of date, per value
      def value_counts(split)
        values = values_of(split).alias("value").to_frame.filter(seen(as_of))
        values.group_by("value").agg([Polars.len.cast(Polars::Int64).alias("n")]).rows.to_h
      end

      # @param split [Split]
      # @param labels [Array<Array>] of {Lifecycle::Grouping.labels}
      # @return [Lifecycle::Grouping] everybody seen by the as-of date, by value
      def groups(split, labels)
        remembered([:groups, split.key, @rule_set&.key, labels]) do
          Lifecycle::Grouping.values(@generation, values_of(split), labels, among: seen(as_of), key: known(split.key))
        end
      end

      # @param rule_set [Lifecycle::RuleSet]
      # @return [Polars::Series] booleans over the ledger's profiles: whom the rule set is about at the as-of date
      def population(rule_set)
        parts = [seen(as_of)]
        parts << mask(rule_set.population.definition.root) if rule_set.population
        parts << reachable_over(rule_set.channel) if rule_set.channel
        parts.reduce(:&)
      end

      # @param date [Date]
      # @return [Polars::Series] booleans over the ledger's profiles: who had been seen by the end of the date
      def seen(date)
        @generation.cache.fetch([:seen, date]) do
          seen = (Polars.col("first_seen_day") <= Calendar.number(date)).alias("mask")
          of_each { |evaluator| evaluator.ledger.profiles.select([seen])["mask"] }
        end
      end

      # @param channel [String] of {Reach::CHANNELS}
      # @return [Polars::Series] booleans over the ledger's profiles: who can be reached over it
      def reachable_over(channel)
        of_each { |evaluator| evaluator.remembered([:reachable_over, channel]) { evaluator.reach.mask(channel) } }
      end

      # @param split [Split]
      # @return [Polars::Series] everybody's value
      def values_of(split)
        of_each { |evaluator| evaluator.remembered([:values, split.key, @rule_set&.key]) { split.values(evaluator) } }
      end

      protected

      def own_states(date, rule_set)
        lifecycle = lifecycle(rule_set)
        found = lifecycle.states(date)
        return found if lifecycle.ledger.equal?(@generation)

        first_seen.select(["profile_id"]).join(found, on: "profile_id", how: "left")
      end

      private

      # What an answer depends on besides the ledger.
      def known(key) = [key, @as_of, @rule_set&.key]

      def people_of(rule_set)
        remembered([:people_of, rule_set.people_key]) { @generation.picked(ids.filter(population(rule_set))) }
      end
    end
  end
end
