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
      _, seconds = Clock.timed { effect(runs(1), "run") }
      yield "effect over everybody", seconds, @generation.base_size
      _, seconds = Clock.timed { effect(runs(20), "export") }
      yield "effect over 20 runs", seconds, @generation.base_size
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
      Dir.mktmpdir { |directory| Clock.timed { file.write([rows], File.join(directory, "rows")) }.last }
    end

    # Everybody, in so many runs, one every other day; every tenth person of a run was in the one before.
    def runs(number)
      ids = @generation.profiles["profile_id"]
      size = ids.len / number
      Array.new(number) do |run|
        own = ids.slice([(run * size) - (size / 10), 0].max, size + (size / 10))
        held = holdout.mask(own)
        others = held.to_frame.select([Polars.col("held").is_not])["held"]
        Estrel::Analyses::Stored::Run.new(id: run + 1, as_of: AS_OF - 70 + (2 * run), exported: own.filter(others),
                                          holdout: own.filter(held), planned: 0.1, channel: "email")
      end
    end

    def effect(runs, which)
      stored = Estrel::Analyses::Stored.new
      stored.define_singleton_method(:run) { |_| runs.first }
      stored.define_singleton_method(:runs_of) { |_| runs }
      workspace = Estrel::Analyses::Workspace.new(ledger: @generation, as_of: AS_OF, today: AS_OF + 1, stored: stored,
                                                  rules: Questions::RULE_SET)
      question = { which => 1, "days" => 28, "metric" => { "event" => "ride_ended", "measure" => "people" } }
      Estrel::Analyses::ExportEffect.ask(question, workspace).over
    end
  end
end
