# frozen_string_literal: true

module Estrel
  # The questions there are. Each is an {Analysis}: a class in `analyses/NAME.rb` with the schema of its question and of
  # its picture beside it, in `analyses/NAME.yaml`. What an analysis needs from outside the ledger, such as an audience
  # of a number, comes from a {Workspace}.
  module Analyses
    # Raised for a question that cannot be asked.
    class Invalid < Estrel::Invalid; end

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
