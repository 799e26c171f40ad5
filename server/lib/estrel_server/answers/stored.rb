# frozen_string_literal: true

module EstrelServer
  module Answers
    # The audiences, lifecycle rules and runs that questions name, as far as whoever asks may see them.
    class Stored < Estrel::Analyses::Stored
      # @param catalogue [Estrel::Catalogue] of the ledger that whoever asks may put questions to
      # @param record [RuleSet] whose rules the question is about
      # @param generation [Estrel::Ledger::Readable]
      def initialize(catalogue, record, generation)
        super()
        @catalogue = catalogue
        @record = record
        @generation = generation
      end

      # @raise [ActiveRecord::RecordNotFound]
      # @raise [Estrel::Audience::Invalid]
      def audience(id)
        row = EstrelServer::Audience.kept.find_by(id: id) or return super
        NamedAudience.new(id: id, name: row.name, definition: Asking.definition(row.current.definition, @catalogue))
      end

      def grouping(id, catalogue) = EstrelServer::Grouping.find_by(id: id)&.split(catalogue) || super

      def definition(json, catalogue) = Asking.definition(json, catalogue)

      def rules(json)
        Asking.rule_set(json, @catalogue, of: @record) ||
          raise(Estrel::Analyses::Invalid.at("tried.activity", "choose at least one event type that counts"))
      end

      def run(id)
        row = ExportRun.where(export: Export.visible).find_by(id: id) or return super
        raise Estrel::Analyses::Invalid.at("run", "this run has not exported anybody") unless row.state == "done"

        told(row)
      end

      # Those carried out whose files are still there.
      def runs_of(id)
        export = Export.visible.find_by(id: id) or return super
        export.runs.recorded.where.not(exported_at: nil).reorder(:exported_at, :id).map { |row| told(row) }
      end

      def standing_holdout(id) = StandingHoldout.find_by(id: id)&.told || super

      def past_rules = @record.new_record? ? nil : past.method(:at)

      def rule_changes = past.changes.map { |change| { at: change[:at].iso8601(6), what: change[:what] } }

      def rules_condition = @record.default || @record.id.nil? ? {} : { "rule_set" => { "id" => @record.id } }

      def exported_by_name(as_of) = ExportRun.exported_by_name(as_of)

      private

      def told(row)
        settings = row.settings
        at = row.exported_at
        people = %w[exported holdout].map { |step| row.files.ids(step) }
        merges = at ? Merge.where(merged_at: at..).pluck(:from_profile_id, :into_profile_id).to_h : {}
        exported, holdout = people.map { |ids| as_now(ids, merges) }
        Run.new(id: row.id, as_of: row.as_of, at: at && (at.to_r * 1_000_000).to_i,
                exported: exported, holdout: holdout,
                merged: people.sum { |ids| merges.empty? ? 0 : ids.to_a.count { |id| merges.key?(id) } },
                planned: EstrelServer::Holdout.find_by(id: settings.holdout)&.planned, channel: settings.channel)
      end

      # Whoever has become part of another profile since is that one now.
      def as_now(ids, merges)
        return ids if merges.empty?

        now = ids.to_a.map do |id|
          id = merges[id] while merges.key?(id)
          id
        end
        Polars::Series.new("profile_id", now, dtype: Polars::Int64)
      end

      def past = @past ||= PastRules.new(@record, @generation)
    end
  end
end
