# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # What the two groups are called, and what parted them. Frozen.
      #
      # `others` and `held`, in a sentence: "exported people", "the holdout"; `columns`, above their figures; `parted`,
      # in "by day since …", "the day before …"; `not_begun`, in "No result yet: …"; `reasons` why the split may not be
      # as planned.
      Words = Struct.new(:others, :held, :columns, :parted, :not_begun, :reasons, keyword_init: true)

      # Of one run, of all runs of an export, and of a global holdout.
      Words::RUN = Words.new(others: "exported people", held: "the holdout", columns: %w[Exported Holdout],
                             parted: "the run", not_begun: "this run exported on",
                             reasons: "Either the holdout changed after the export, or one group was excluded more " \
                                      "often than the other").freeze
      Words::PLAN = Words.new(**Words::RUN.to_h, not_begun: "the first run exported on").freeze
      Words::STANDING = Words.new(others: "people outside the holdout", held: "the global holdout",
                                  columns: ["Not held out", "Global holdout"], parted: "the holdout started",
                                  not_begun: "the global holdout starts on",
                                  reasons: "Profile merges since then, more in one group than the other, may be the " \
                                           "reason").freeze
    end
  end
end
