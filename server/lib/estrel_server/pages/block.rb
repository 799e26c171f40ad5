# frozen_string_literal: true

module EstrelServer
  module Pages
    # One block of a page: a `heading` or `text` with its words, an `analysis` by the number of a saved one, with what
    # is drawn of its tables where somebody has chosen that, or an `audience` by its number. Frozen.
    class Block
      # @return [String] heading, text, analysis or audience
      attr_reader :kind
      # @return [String, nil]
      attr_reader :text
      # @return [Hash{String => String}, nil] keys of a table and a figure, see {Estrel::Analyses::Answer#drawn}
      attr_reader :drawn
      # @return [Boolean] whether the table stands below the picture
      attr_reader :table

      # @param json [Hash]
      def initialize(json)
        @kind, @text, @id, @drawn = json.values_at("kind", "text", "id", "drawn")
        @table = json.fetch("table", true)
        freeze
      end

      # @return [SavedAnalysis, Audience, nil] what it shows; nil where there is none, or none for whoever asks
      def shown
        case kind
        when "analysis" then SavedAnalysis.kept.find_by(id: @id)
        when "audience" then Audience.kept.find_by(id: @id)
        end
      end

      # @return [SavedAnalysis, Audience, nil] the same, whoever's it is
      def used
        case kind
        when "analysis" then SavedAnalysis.find_by(id: @id)
        when "audience" then Audience.find_by(id: @id)
        end
      end

      # @return [String, nil] what it should show and is not there
      def missing
        return if %w[heading text].include?(kind) || shown

        kind == "analysis" ? "a saved analysis" : "an audience"
      end
    end
  end
end
