# frozen_string_literal: true

module EstrelServer
  # One wording of a saved analysis: which analysis, and its question as its address has it, by name. Dates that are to
  # move along with the data stand as days before the as-of date, as in `from: "-30"`.
  class SavedAnalysisVersion < Record
    belongs_to :saved_analysis, inverse_of: :versions

    attribute :question, :json
  end
end
