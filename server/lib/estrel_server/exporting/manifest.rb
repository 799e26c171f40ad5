# frozen_string_literal: true

module EstrelServer
  module Exporting
    # What lies beside a run's file and says what it is: whose, by which rules, as of when, what became of everybody,
    # and the digest of the file. The same export as of the same date gives the same manifest.
    class Manifest
      # @param run [ExportRun]
      # @param headers [Array<String>] of the file
      # @param sha256 [String] of the file
      # @param counts [Hash{String => Integer}]
      # @param rows [Integer]
      # @param models [Array<Estrel::Propensity::Model>] by which chances are told
      def initialize(run, headers:, sha256:, counts:, rows:, models:)
        @run = run
        @headers = headers
        @sha256 = sha256
        @counts = counts
        @rows = rows
        @models = models
      end

      # @return [Hash] plain JSON
      def to_h
        version = @run.audience_version
        { export: @run.export.name, audience: { id: version.audience_id, name: version.audience.name,
                                                version: version.number, definition: version.definition,
                                                sentence: version.said },
          rule_set: @run.rule_set, as_of: @run.as_of, as_received_by: @run.received_by,
          time_zone: Workspace.current.time_zone, rules: @run.rules, people: @counts, columns: @headers,
          models: @models.map(&:to_h), rows: @rows, sha256: @sha256 }
      end

      # @return [String]
      def to_json(*) = JSON.pretty_generate(to_h)
    end
  end
end
