# frozen_string_literal: true

module Bench
  # The analyses that take longest, asked in this process and in several, in turn, with nothing remembered anywhere:
  # each time what parts have answered is forgotten and the processes are started anew, so they also open the ledger and
  # start Polars.
  class Pool
    FIRST = Lifecycles::FIRST - 6
    YEAR = Questions::AS_OF - 364
    QUESTIONS = { "365 days of states" => ["states", { from: YEAR, step: "day" }],
                  "53 weeks of movement" => ["states", { from: FIRST, step: "week" }],
                  "the same by 20 values" => ["states-by-group", { from: FIRST, step: "week",
                                                                   by: { attribute: "quarter" }, top: 20 }],
                  "thresholds" => ["thresholds", {}], "52-week backtest" => ["backtest", { weeks: 52 }],
                  "revisions" => ["revisions", { from: FIRST }],
                  "activity, 365 days" => ["activity", { from: YEAR, step: "day" }],
                  "three events by plan, weeks" => ["trends", { series: Events::SERIES.values, step: "week",
                                                                by: { attribute: "plan" }, from: YEAR }],
                  "next events, 3 on, 90 days" => ["next-events", { event: Events::SERIES.fetch("ride"), depth: 3,
                                                                    from: Questions::AS_OF - 89 }],
                  "experience, 20 visits" => ["experience", { series: [Events::SERIES.fetch("ride")],
                                                              edges: (1..20).to_a }],
                  "retention, every week's first" => ["retention", { start: Events::SERIES.fetch("plan"),
                                                                     return: Events::SERIES.fetch("ride"),
                                                                     starts: "each", from: YEAR }],
                  "funnel, 8 steps ever" => ["funnel", { steps: Events::STEPS, from: Questions::AS_OF - 729 }],
                  "chance, fit and score" => ["chance", { of: "lapse" }],
                  "visits, all" => ["visits", { from: Questions::AS_OF - 3_650, step: "month" }] }.freeze
    REPEATS = 3
    private_constant :FIRST, :YEAR, :REPEATS

    # What an analysis is beside a preview, which the sentence editor asks at every change.
    AUDIENCES = { "a preview" => Questions::AUDIENCE,
                  "a preview with states" => { "all" => [Questions::AUDIENCE["all"].first,
                                                         { "lifecycle" => { "is" => %w[dormant churned] } }] } }.freeze
    private_constant :AUDIENCES

    # @param directory [String] of the ledger
    # @param count [Integer] of processes
    def initialize(directory, count)
      @directory = directory
      @var = "#{directory}-pool"
      FileUtils.mkdir_p(@var)
      FileUtils.ln_sf(directory, File.join(@var, "ledger")) unless File.exist?(File.join(@var, "ledger"))
      environment = { "ESTREL_VAR" => @var, "ESTREL_ANSWERING_PROCESSES" => count.to_s }
      @settings = EstrelServer::Settings.from(ENV.to_h.merge(environment))
    end

    # @yieldparam name [String]
    # @yieldparam alone [Float] seconds, the median of several
    # @yieldparam together [Float] the same
    # @yieldparam memory [Integer] MB that one of the processes has taken at most, mapped files included
    # @return [void]
    def each
      AUDIENCES.each { |name, json| yield name, *compared { |asker| preview(json, asker) } }
      QUESTIONS.each { |name, asked| yield name, *compared { |asker| seconds(*asked, asker) } }
    end

    private

    def compared
      times = Array.new(REPEATS) do
        alone = yield(Estrel::Analyses::InTurn)
        during { |pids| [alone, yield(EstrelServer::Answers::Pool.new(@settings)), peak(pids)] }
      end
      times.transpose.map { |list| list.sort[REPEATS / 2] }
    end

    def fresh
      GC.start
      Estrel::Ledger.new(@directory).current
    end

    # Everything that is told of an audience while it is written.
    def preview(json, asker)
      ledger = fresh
      definition = Estrel::Audience::Definition.parse(json, catalogue: ledger.catalogue)
      evaluator = Estrel::Audience::PartByPart.new(ledger, as_of: Questions::AS_OF, rule_set: Questions::RULE_SET,
                                                           asker: asker)
      figures = %i[size steps undecided state_mix reachable listed].map { |name| [name, definition] }
      found, seconds = Clock.timed { evaluator.figures(*figures, [:base]) }
      raise "another preview" unless ((@previews ||= {})[json] ||= found) == found

      seconds
    end

    def seconds(address, question, asker)
      generation = fresh
      workspace = Analyses.workspace(generation, Questions::AS_OF)
      analysis = Analyses.ask(address, question, workspace).tap(&:key)
      answer, seconds = Clock.timed { analysis.over(asker) }
      same(address, question, answer)
      seconds
    end

    def same(*question, answer)
      (@answers ||= {})[question] ||= answer.finding
      raise "another answer to #{question}" unless @answers[question] == answer.finding
    end

    def during
      FileUtils.rm_rf(Dir[File.join(@directory, "shelf-*")])
      pids = Array.new(@settings.answering_processes) do |slot|
        Process.spawn({ "ESTREL_VAR" => @var }, EstrelServer::ROOT + "/bin/estrel", "answer", "--slot", slot.to_s)
      end
      sleep 0.1 until pids.each_index.all? { |slot| File.socket?(EstrelServer::Answers::Pool.path(@settings, slot)) }
      yield pids
    ensure
      pids.each { |pid| Process.kill("TERM", pid) && Process.wait(pid) }
    end

    def peak(pids) = pids.map { |pid| File.read("/proc/#{pid}/status")[/VmHWM:\s+(\d+)/, 1].to_i / 1024 }.max
  end
end
