# frozen_string_literal: true

module Bench
  # What came of messages, how people respond to them, and what they did before and after, each with nothing remembered.
  class Campaigns
    AS_OF = Questions::AS_OF

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
    end

    # @yieldparam name [String]
    # @yieldparam seconds [Float] the median of several
    # @return [void]
    def each
      { "results of campaigns" => method(:results), "a campaign day by day" => method(:over_time),
        "runs of response" => method(:responses), "before and after, matched" => method(:before_after) }
        .each { |name, question| yield name, Questions.new(@directory).seconds(question) }
    end

    private

    def evaluator(generation) = Estrel::Audience::Evaluator.new(generation, as_of: AS_OF, policy: Questions::POLICY)

    def results(generation) = Estrel::Campaigns::Results.new(evaluator(generation)).campaigns

    def over_time(generation) = Estrel::Campaigns::Results.new(evaluator(generation)).over_time(nil, nil)

    def responses(generation)
      Estrel::Campaigns::Responses.new(evaluator(generation)).then { |found| [found.points, found.heat_map, found.current_runs] }
    end

    def before_after(generation)
      bought = Estrel::Audience::Selection.parse({ "event" => "pass_bought" }, generation.catalogue)
      start = Estrel::BeforeAfter::Start.first(bought, AS_OF - 208, AS_OF - 28)
      measure = Estrel::BeforeAfter::Measure.new(generation.catalogue, "ride_ended")
      Estrel::BeforeAfter.new(evaluator(generation), start, measure, before: 28, after: 28).to_h
    end
  end
end
