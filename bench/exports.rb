# frozen_string_literal: true

require "tmpdir"

module Bench
  # Exporting: who is excluded, the columns, files of each format, changes since the last run, and the effect.
  class Exports
    AS_OF = Questions::AS_OF
    COLUMNS = ["attribute:plan", "attribute:quarter", "address", "state", "inactive_days",
               { "take" => "last", "event" => "ride_ended" },
               { "take" => "count", "event" => "ride_ended", "days" => 90 }].freeze
    FORMATS = { "CSV" => {}, "CSV with gzip" => { "gzip" => true }, "JSON Lines" => { "format" => "jsonl" },
                "Parquet" => { "format" => "parquet" } }.freeze

    # @param directory [String] of the ledger
    # @param people [Integer] in the audience
    def initialize(directory, people)
      @generation = Estrel::Ledger.new(directory).current
      @people = people
    end

    # @yieldparam name [String]
    # @yieldparam seconds [Float]
    # @yieldparam rows [Integer]
    # @return [void]
    def each
      frame, seconds = Clock.timed { waterfall.frame }
      yield "who is excluded", seconds, frame.height
      handed = frame.filter(Polars.col("step") == "exported")
      rows, seconds = Clock.timed { columns.frame(handed) }
      yield "columns", seconds, rows.height
      FORMATS.each { |name, settings| yield name, write(rows, settings), rows.height }
      ids = handed["profile_id"]
      _, seconds = Clock.timed { Estrel::Exports::Changes.between(ids.slice(ids.len / 100), ids) }
      yield "changes of 1 %", seconds, ids.len
      _, seconds = Clock.timed { effect.to_h }
      yield "effect over everybody", seconds, @generation.base_size
    end

    private

    def evaluator = Estrel::Audience::Evaluator.new(@generation, as_of: AS_OF, rule_set: Questions::RULE_SET)

    def holdout = Estrel::Exports::Holdout.share("bench", 0.1)

    def waterfall
      messaged = Estrel::Exports::Suppression::Messaged.new(events: ["pass_bought"], days: 7)
      rules = Estrel::Exports::Suppression.new(channel: "email", messaged: messaged)
      members = @generation.profiles["profile_id"].head(@people)
      Estrel::Exports::Waterfall.new(evaluator, members, rules, holdout: holdout)
    end

    def columns
      parsed = COLUMNS.map { |json| Estrel::Exports::Column.parse(json) }
      Estrel::Exports::Columns.new(evaluator, parsed, channel: "email")
    end

    def write(rows, settings)
      file = Estrel::Exports::RowsFile.new({ **Estrel::Exports::Settings::FILE, **settings })
      Dir.mktmpdir { |directory| Clock.timed { file.write(rows, File.join(directory, "rows")) }.last }
    end

    def effect
      ids = @generation.profiles["profile_id"]
      held = holdout.mask(ids)
      others = held.to_frame.select([Polars.col("held").is_not])["held"]
      run = Estrel::Analyses::Stored::Run.new(as_of: AS_OF - 28, exported: ids.filter(others),
                                              holdout: ids.filter(held))
      stored = Estrel::Analyses::Stored.new
      stored.define_singleton_method(:run) { |_| run }
      workspace = Estrel::Analyses::Workspace.new(ledger: @generation, as_of: AS_OF, today: AS_OF + 1, stored: stored)
      question = { "run" => 1, "days" => 28, "metric" => { "event" => "ride_ended", "measure" => "people" } }
      Estrel::Analyses::ExportEffect.ask(question, workspace).over
    end
  end
end
