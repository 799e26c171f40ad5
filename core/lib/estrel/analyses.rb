# frozen_string_literal: true

module Estrel
  # The questions there are. Each is an {Analysis}: a class in `analyses/NAME.rb` with the schema of its question and of
  # its picture beside it, in `analyses/NAME.yaml`. What an analysis needs from outside the ledger, such as an audience
  # of a number, comes from a {Workspace}.
  module Analyses
    # Raised for a question that cannot be asked. `errors` lists what is wrong as `{place:, message:}`.
    class Invalid < Error
      # @return [Array<Hash{Symbol => String}>]
      attr_reader :errors

      # @param errors [Array<Hash{Symbol => String}>]
      def initialize(errors)
        @errors = errors.freeze
        super(errors.map { |error| error[:message] }.join("; "))
      end

      # @param place [String]
      # @param message [String]
      # @return [Invalid]
      def self.at(place, message) = new([{ place: place, message: message }])
    end

    module_function

    # @return [Array<Class>] all of them, as the interface lists them
    def all
      [States, StatesByGroup, StateMovement, Activity, Thresholds, Backtest, Revisions, RulesEffect, Trends, Ranking,
       NextEvents, Frequency, Visits, Experience, Retention, CohortValue, Funnel, Change, Chance, Overlap, Breakdown,
       BeforeAfter, CampaignResults, CampaignDays, ResponseStreaks, ExportEffect, HoldoutSize]
    end

    # @param address [String] such as "before-after"
    # @return [Class, nil]
    def named(address) = all.find { |analysis| analysis.address == address }
  end
end
