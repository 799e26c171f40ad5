# frozen_string_literal: true

module EstrelServer
  # An analysis that is kept under a name, with all its versions. Deleting hides it, so that it can be brought back.
  class SavedAnalysis < Record
    include Named
    include Owned

    has_many :versions, -> { order(:number) }, class_name: "EstrelServer::SavedAnalysisVersion",
                                               inverse_of: :saved_analysis, dependent: :restrict_with_exception

    scope :kept, -> { visible.where(deleted_at: nil) }

    validates :folder, length: { maximum: 100 }
    validates :note, length: { maximum: 2000 }

    # @return [SavedAnalysisVersion]
    def current = versions.last

    # Keeps a question as the newest version, unless it is the same as the newest one.
    #
    # @param analysis [String] the address of an analysis
    # @param question [Hash{String => String}] what stands in the address, see {SavedAnalysisVersion}
    # @param asks [Hash, nil] the same as the API takes it; a page can show the analysis only with it
    # @param author [String] who says so
    # @return [SavedAnalysisVersion]
    # @raise [Error] where there is no such analysis
    def keep(analysis, question, asks = nil, author: "")
      raise Error, "there is no analysis called #{analysis.inspect}" unless Estrel::Analyses.named(analysis)
      return current if current && [current.analysis, current.question, current.asks] == [analysis, question, asks]

      versions.create!(number: (current&.number || 0) + 1, analysis: analysis, question: question, asks: asks,
                       author: author)
    end
  end
end
