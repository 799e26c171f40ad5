# frozen_string_literal: true

module Bench
  # One audience per kind of clause, asked with nothing remembered, and again with the rest of the generation warm.
  class Clauses
    RIDE = { "event" => "ride_ended" }.freeze
    PLAN = { "event" => "trip_planned" }.freeze
    FAR = [{ "property" => "distance_km", "compare" => "greater", "value" => 5 }].freeze
    TOTAL = { "of" => "distance_km", "take" => "sum", "compare" => "at_least", "value" => 50 }.freeze
    DEFINITIONS = {
      "attribute only" => { "attribute" => { "name" => "plan", "compare" => "is", "value" => "student" } },
      "count with a property filter" => { "did" => { **RIDE, "where" => FAR, "count" => { "at_least" => 3 },
                                                             "window" => { "last_days" => 30 } } },
      "did not" => { "did" => { "event" => "pass_bought", "count" => { "exactly" => 0 },
                                "window" => { "last_days" => 60 } } },
      "sum of a property" => { "did" => { **RIDE, "window" => { "last_days" => 90 }, "measure" => TOTAL } },
      "first time in the last 10 days" => { "first" => { "event" => "pass_bought",
                                                         "window" => { "last_days" => 10 } } },
      "within one visit" => { "visit" => { "all" => [PLAN, RIDE], "window" => { "last_days" => 90 } } },
      "A then B within 7 days" => { "order" => { "steps" => [PLAN, { **RIDE, "within" => { "days" => 7 } }] } },
      "A then the very next B" => { "order" => { "steps" => [PLAN, { **RIDE, "next" => true }],
                                                 "window" => { "last_days" => 90 } } },
      "rhythm 4 of 4 weeks" => { "rhythm" => { **RIDE, "each" => "week", "last" => 4 } },
      "entered a state in the last week" => { "lifecycle" => { "is" => ["dormant"], "entered_last_days" => 7 } }
    }.freeze

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
    end

    # @yieldparam name [String]
    # @yieldparam seconds [Float] the median of several, nothing remembered
    # @yieldparam size [Integer]
    # @return [void]
    def each
      questions = Questions.new(@directory)
      all = DEFINITIONS.merge("all of these together" => { "all" => DEFINITIONS.values })
      all.each do |name, json|
        size = nil
        seconds = questions.seconds(->(generation) { size = size(generation, json) })
        yield name, seconds, size
      end
    end

    private

    def size(generation, json)
      definition = Estrel::Audience::Definition.parse(json, catalogue: generation.catalogue)
      Estrel::Audience::Evaluator.new(generation, as_of: Questions::AS_OF, policy: Questions::POLICY).size(definition)
    end
  end
end
