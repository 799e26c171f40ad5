# frozen_string_literal: true

module Bench
  # What came of messages, how people respond to them, and what they did before and after, each with nothing remembered.
  class Campaigns
    AS_OF = Questions::AS_OF
    BOUGHT = { first: { event: "pass_bought" }, from: AS_OF - 208, to: AS_OF - 28, metric: { event: "ride_ended" },
               before: 28, after: 28 }.freeze

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
    end

    # @yieldparam name [String]
    # @yieldparam seconds [Float] the median of several
    # @return [void]
    def each
      { "results of campaigns" => ["campaign-results", {}], "a campaign day by day" => ["campaign-days", {}],
        "response streaks" => ["response-streaks", {}], "before and after, matched" => ["before-after", BOUGHT] }
        .each do |name, question|
          yield name, Questions.new(@directory).seconds(->(generation) { Analyses.answer(generation, *question) })
        end
    end
  end
end
