# frozen_string_literal: true

module Estrel
  module Analyses
    class ExportEffect < Analysis
      # What the two groups are called, and what parted them. Frozen.
      #
      # `others` and `held`, in a sentence: "those exported", "the holdout"; `columns`, above their figures; `parted`,
      # in "up to each day after …", "the day before …"; `not_begun`, in "nothing can be said yet: …"; `reasons` why
      # the split may not be as it was planned.
      Words = Struct.new(:others, :held, :columns, :parted, :not_begun, :reasons, keyword_init: true)

      # Of one run, of all runs of an export, and of a standing holdout.
      Words::RUN = Words.new(others: "those exported", held: "the holdout", columns: %w[Exported Holdout],
                             parted: "the run", not_begun: "this run exported on",
                             reasons: "Either the holdout was changed after people had been exported, or one of the " \
                                      "two groups was left out more often than the other").freeze
      Words::PLAN = Words.new(**Words::RUN.to_h, not_begun: "the first run exported on").freeze
      Words::STANDING = Words.new(others: "those not held back", held: "the standing holdout",
                                  columns: ["Not held back", "Standing holdout"], parted: "the holdout began",
                                  not_begun: "the standing holdout begins on",
                                  reasons: "People who became part of others since, more in one group than in the " \
                                           "other, can be the reason").freeze
    end
  end
end
