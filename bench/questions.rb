# frozen_string_literal: true

module Bench
  # The questions measured, each asked of the core and, in hand-written SQL, of MariaDB.
  class Questions
    REPEATS = 5
    AS_OF = DataSet::LAST_DAY
    RULE_SET = Estrel::Lifecycle::RuleSet.new(activity: %w[ride_ended trip_planned app_opened pass_bought], new_for: 30,
                                              active_within: 30, churned_after: 90)
    AUDIENCE = { "all" => [
      { "attribute" => { "name" => "plan", "compare" => "is", "value" => "pay as you go" } },
      { "did" => { "event" => "ride_ended", "count" => { "at_least" => 3 }, "window" => { "last_days" => 30 },
                   "where" => [{ "property" => "distance_km", "compare" => "greater", "value" => 5 }] } },
      { "did" => { "event" => "pass_bought", "count" => { "exactly" => 0 }, "window" => { "last_days" => 60 } } }
    ] }.freeze

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
    end

    # @return [Hash{String => Proc}] name to a question that returns a comparable answer
    def all
      { "audience" => method(:audience), "states on one date" => method(:states),
        "365 days of states" => method(:year) }
    end

    # @return [Float] seconds, the median of several asked with nothing remembered
    def seconds(question)
      times = Array.new(REPEATS) do
        GC.start # as a server does when it opens a new generation
        generation = Estrel::Ledger.new(@directory).current
        Clock.timed { question.call(generation) }.last
      end
      times.sort[REPEATS / 2]
    end

    # @yield [name, cold, warm, answer] of each question: seconds with nothing remembered, the median of several; and
    #   asked again of the same generation
    # @return [void]
    def each_twice(questions)
      questions.each do |name, question|
        answer = nil
        asked = nil
        cold = seconds(lambda do |generation|
          answer = question.call(generation)
          asked = generation
        end)
        yield name, cold, Clock.timed { question.call(asked) }.last, answer
      end
    end

    # @return [Object] the answer, for comparing it with the database's
    def answer(question) = question.call(Estrel::Ledger.new(@directory).current)

    private

    def audience(generation)
      definition = Estrel::Audience::Definition.parse(AUDIENCE, catalogue: generation.catalogue)
      Estrel::Audience::Evaluator.new(generation, as_of: AS_OF).size(definition)
    end

    def states(generation)
      Estrel::Lifecycle.new(generation, RULE_SET).states(AS_OF)["state"].to_a.tally
    end

    def year(generation)
      counts = Estrel::Lifecycle.new(generation, RULE_SET).counts(AS_OF - 364, AS_OF)
      counts.except("never_active").transform_values(&:sum)
    end
  end
end
