# frozen_string_literal: true

module EstrelServer
  module Answers
    # Which rules were the default on a date: the version a rule set had then, and how the catalogue was read.
    class PastRules
      # @param rule_set [RuleSet]
      # @param generation [Estrel::Ledger::Readable]
      def initialize(rule_set, generation)
        @rule_set = rule_set
        @generation = generation
        @built = {}
      end

      # Before the rule set had its first version, that one is taken.
      #
      # @param date [Date]
      # @return [Estrel::Lifecycle::Revision::Rules]
      def at(date)
        moment = Time.at(0, @generation.calendar.end_of(date), :usec).utc
        version = versions.reverse.find { |row| row.created_at < moment } || versions.first
        Estrel::Lifecycle::Revision::Rules.new(rules(version), catalogue(moment))
      end

      # @return [Array<Hash>] when and how the rules changed: `at`, `what` in words
      def changes
        rule_set = versions.drop(1).map { |row| { at: row.created_at, what: "version #{row.number} of the rules" } }
        types = undone.map do |row|
          { at: row.changed_at, what: "“#{row.event_type.name}” was changed in the catalogue" }
        end
        (rule_set + types).sort_by { |change| change[:at] }
      end

      private

      def versions = @versions ||= @rule_set.versions.to_a

      def undone = @undone ||= CatalogueChange.includes(:event_type).order(:id).to_a

      def rules(version)
        json = version ? version.rules : @rule_set.rules_json
        @built[[:version, version&.number]] ||= Asking.rule_set(json, @generation.catalogue, of: @rule_set)
      end

      # Today's catalogue with what was changed after a moment undone, the newest first.
      def catalogue(moment)
        later = undone.select { |change| change.changed_at >= moment }
        return @generation.catalogue if later.empty?

        @built[[:catalogue, later.first.id]] ||= undo(later.reverse)
      end

      def undo(changes)
        now = @generation.catalogue
        types = now.event_types.transform_values(&:dup)
        aliases = now.aliases.dup
        names = EventType.pluck(:id, :name).to_h
        changes.each { |change| put_back(change, types, aliases, names) }
        Estrel::Catalogue.new(event_types: types.values, attributes: now.attributes.values, aliases: aliases,
                              sources: now.sources, messaging: now.messaging)
      end

      def put_back(change, types, aliases, names)
        name = names.fetch(change.event_type_id)
        if change.was_merged_into_id
          aliases[name] = names.fetch(change.was_merged_into_id)
          types.delete(name)
        else
          target = types[aliases.delete(name)]
          types[name] ||= apart(target, change.event_type_id, name) if target
          types[name].not_activity = change.was_not_activity if types[name]
        end
      end

      def apart(type, id, name)
        type.dup.tap do |own|
          own.id = id
          own.name = name
        end
      end
    end
  end
end
