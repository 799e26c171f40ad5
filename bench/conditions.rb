# frozen_string_literal: true

module Bench
  # One audience per kind of condition, a long one, an overlap and one person's reasons, each asked with nothing
  # remembered; {ConditionsSQL} asks the same of MariaDB.
  class Conditions
    RIDE = { "event" => "ride_ended" }.freeze
    PLAN = { "event" => "trip_planned" }.freeze
    PASS = { "event" => "pass_bought" }.freeze
    FAR = [{ "property" => "distance_km", "compare" => "greater", "value" => 5 }].freeze
    TOTAL = { "of" => "distance_km", "take" => "sum", "compare" => "at_least", "value" => 50 }.freeze
    SINGLE = {
      "attribute only" => { "attribute" => { "name" => "plan", "compare" => "is", "value" => "student" } },
      "count with a property filter" => { "did" => { **RIDE, "where" => FAR, "count" => { "at_least" => 3 },
                                                             "window" => { "last_days" => 30 } } },
      "did not" => { "did" => { **PASS, "count" => { "exactly" => 0 }, "window" => { "last_days" => 60 } } },
      "sum of a property" => { "did" => { **RIDE, "window" => { "last_days" => 90 }, "measure" => TOTAL } },
      "first time in the last 10 days" => { "first" => { **PASS, "window" => { "last_days" => 10 } } },
      "within one visit" => { "visit" => { "all" => [PLAN, RIDE], "window" => { "last_days" => 90 } } },
      "counted within one visit" => { "visit" => { "all" => [{ **PLAN, "count" => { "at_least" => 2 } }, RIDE],
                                                   "window" => { "last_days" => 90 } } },
      "A then B within 7 days" => { "order" => { "steps" => [PLAN, { **RIDE, "within" => { "days" => 7 } }] } },
      "A then the very next B" => { "order" => { "steps" => [PLAN, { **RIDE, "next" => true }],
                                                 "window" => { "last_days" => 90 } } },
      "rhythm 4 of 4 weeks" => { "rhythm" => { **RIDE, "each" => "week", "last" => 4 } },
      "was ever" => { "attribute" => { "name" => "plan", "compare" => "is", "value" => "student", "ever" => true } },
      "entered a state in the last week" => { "lifecycle" => { "is" => ["dormant"], "entered_last_days" => 7 } },
      "on a list of 5,000" => { "listed" => { "by" => "customer", "values" => (1..5_000).map { |id| "C#{id * 7}" } } },
      "reachable by e-mail" => { "reachable" => { "by" => ["email"] } }
    }.freeze
    THREE = { "all" => SINGLE.values_at("attribute only", "count with a property filter", "did not") }.freeze
    # Twelve mixed conditions that leave somebody.
    TWELVE = { "all" => [
      { "any" => SINGLE.values_at("attribute only", "was ever", "reachable by e-mail") },
      *SINGLE.values_at("count with a property filter", "sum of a property", "A then B within 7 days",
                        "A then the very next B", "rhythm 4 of 4 weeks", "within one visit"),
      { "not" => SINGLE.fetch("first time in the last 10 days") },
      { "not" => SINGLE.fetch("entered a state in the last week") }
    ] }.freeze
    SIX = (SINGLE.keys - ["counted within one visit"]).first(6).freeze

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
    end

    # @yieldparam name [String]
    # @yieldparam seconds [Float] the median of several, nothing remembered
    # @yieldparam answer [Object] comparable with that of the database
    # @return [void]
    def each
      questions = Questions.new(@directory)
      all.each do |name, question|
        answer = nil
        seconds = questions.seconds(->(generation) { answer = question.call(generation) })
        yield name, seconds, answer
      end
    end

    private

    def all
      sizes = { **SINGLE, "three conditions" => THREE, "twelve conditions" => TWELVE }
      sizes.transform_values { |json| ->(generation) { evaluator(generation).size(parsed(generation, json)) } }
           .merge("overlap of six" => method(:overlap),
                  "why, for one person" => ->(generation) { why(generation, THREE) },
                  "why, twelve conditions" => ->(generation) { why(generation, TWELVE) })
    end

    def parsed(generation, json) = Estrel::Audience::Definition.parse(json, catalogue: generation.catalogue)

    def evaluator(generation)
      Estrel::Audience::PartByPart.new(generation, as_of: Questions::AS_OF, rule_set: Questions::RULE_SET)
    end

    def overlap(generation)
      definitions = SIX.map { |name| parsed(generation, SINGLE.fetch(name)) }
      evaluator(generation).combinations(definitions).to_h { |(code, _), people| [code, people] }
    end

    # Somebody with a middling history.
    def why(generation, json)
      why = Estrel::Audience::Why.new(generation, generation.base_size / 4, as_of: Questions::AS_OF,
                                                                            rule_set: Questions::RULE_SET)
      why.verdicts(parsed(generation, json)).map(&:holds)
    end
  end
end
