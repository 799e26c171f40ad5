# frozen_string_literal: true

module Estrel
  module Analyses
    # Definitions, as JSON, of people by the days on which they were active. There are none where the rules rest on what
    # the asker may not ask about.
    class ActivePeople
      # @param workspace [Workspace]
      def initialize(workspace)
        @rules = workspace.rules
        @condition = workspace.stored.rules_condition
        @types = @rules.activity_in(workspace.catalogue).map { |type, _| type.name }
        @told = @rules.told_by?(workspace.catalogue)
      end

      # @param from [Date]
      # @param to [Date]
      # @return [Hash, nil] who was active on any day of these; nil where there is none
      def within(from, to)
        any = selections.map { |selection| did(selection, { "at_least" => 1 }, from, to) }
        return if any.empty?

        limited(any.size == 1 ? any.first : { "any" => any })
      end

      # @param days [Integer]
      # @param from [Date]
      # @param to [Date]
      # @return [Hash, nil] who was active on so many days of these; nil where no one condition can count them
      def on_days(days, from, to)
        return unless selections.size == 1

        limited(did(selections.first, { "exactly" => days, "of" => "days" }, from, to))
      end

      private

      def did(selection, count, from, to)
        window = { "from" => from.iso8601, "to" => to.iso8601 }
        { "did" => { **selection, "count" => count, "window" => window } }
      end

      # Event types that count in whole can be asked for together.
      def selections
        return [] unless @told

        @selections ||= begin
          signs = @rules.activity.select { |sign| @types.include?(sign["event"]) }
          whole, some = signs.partition { |sign| sign["where"].empty? }
          names = whole.map { |sign| sign["event"] }.uniq
          together = names.empty? ? [] : [{ "events" => names }]
          together + some.reject { |sign| names.include?(sign["event"]) }
        end
      end

      # Rules may be about some people only; the others are in none of their states.
      def limited(condition)
        return condition unless @rules.limited?

        { "all" => [condition, { "lifecycle" => { "is" => Lifecycle::STATES, **@condition } }] }
      end
    end
  end
end
