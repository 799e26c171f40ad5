# frozen_string_literal: true

module EstrelServer
  # One wording of a saved analysis: which analysis, and its question as its address has it, by name, and as the API
  # takes it (`asks`). Dates that are to move along with the data stand as days before the as-of date, as in
  # `from: "-30"`.
  class SavedAnalysisVersion < Record
    belongs_to :saved_analysis, inverse_of: :versions

    # Names of the dates in a question that may move along.
    DATES = %w[from to].freeze
    DAYS_BEFORE = /\A-\d{1,6}\z/
    private_constant :DATES, :DAYS_BEFORE

    attribute :question, :json
    attribute :asks, :json

    # @param as_of [Date] where the question has no date of its own
    # @return [Hash{String => Object}, nil] what the analysis is asked; nil where that is not known
    def asked(as_of)
      return if asks.nil?

      date = asks["as_of"] ? Date.iso8601(asks["as_of"]) : as_of
      moved = asks.slice(*DATES).select { |_, value| value.is_a?(String) && value.match?(DAYS_BEFORE) }
                  .transform_values { |days| (date + Integer(days, 10)).iso8601 }
      { **asks, "as_of" => date.iso8601, **moved }
    end
  end
end
