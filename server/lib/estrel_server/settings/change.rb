# frozen_string_literal: true

module EstrelServer
  class Settings
    # Changes the workspace's settings, has what depends on them recomputed, and says what changed.
    class Change
      NAMES = %w[time_zone visit_gap_minutes future_tolerance_minutes kept_months].freeze
      # What is to be said where events would go.
      WORDS = "remove old events"
      # Days up to the as-of date whose visits are counted before and after.
      VISIT_DAYS = 30

      # @param json [Hash] new values by name of {NAMES}; those left out stay
      # @param default_as_of [Date]
      def initialize(json, default_as_of:)
        @json = json.slice(*NAMES)
        @confirmed = json["confirm"] == WORDS
        @as_of = default_as_of
      end

      # @return [Hash] `changed` (name, before, after) and `effects` (what, before, after)
      # @raise [ActiveRecord::RecordInvalid]
      # @raise [Error] where events would be removed, and nobody has said so
      def carry_out
        row = Workspace.current
        row.assign_attributes(@json)
        row.validate!
        check_removal(row)
        changed = row.changes.slice(*NAMES).map { |name, (before, after)| { name: name, before: before, after: after } }
        before = counts
        row.save!
        anew = row.saved_change_to_time_zone? || row.saved_change_to_kept_months?
        LedgerBuilding::Builder.new.refresh if anew && before
        { changed: changed, effects: changed.any? && before ? effects(before, counts) : [] }
      end

      private

      def check_removal(row)
        row.keep_by(row.today) if row.kept_months_changed?
        oldest = EstrelServer.ledger.any? ? EstrelServer.ledger.current.oldest_day : nil
        return if @confirmed || row.events_from.nil? || oldest.nil? || oldest >= row.events_from

        raise Error, "this permanently deletes all events before #{Estrel::English.date(row.events_from)}; confirm " \
                     "with {\"confirm\": \"#{WORDS}\"}"
      end

      def counts
        generation = EstrelServer.ledger.current
        default = RuleSet.current
        rule_set = Answers::Asking.rule_set(default.rules_json, generation.catalogue, of: default)
        question = Answers::Question.new(generation, as_of: @as_of, rule_set: rule_set, limited: false)
        states = rule_set ? question.lifecycle.counts(@as_of, @as_of).transform_values(&:first) : {}
        states.transform_keys! { |state| state.to_s.tr("_", " ") }
        visits = Estrel::Visits.count(generation, @as_of - VISIT_DAYS + 1, @as_of, Workspace.current.visit_gap)
        { **states, "visits in the last #{VISIT_DAYS} days" => visits }
      rescue Estrel::Ledger::Missing
        nil
      end

      def effects(before, after)
        before.map { |what, count| { what: what, before: count, after: after.fetch(what) } }
      end
    end
  end
end
