# frozen_string_literal: true

module Estrel
  module Audience
    # The faults found in a definition so far, each with its place.
    class Faults
      def initialize
        @errors = []
      end

      # @param place [String]
      # @param message [String]
      # @param word [String, nil] a name somebody wrote, for which a near one is suggested
      # @param known [Array<String>] the names there are
      # @return [nil] so that a parser can return with it
      def add(place, message, word = nil, known = [])
        @errors << { place: place, message: "#{message}#{Catalogue.suggestion(word, known) if word}" }
        nil
      end

      # @return [void]
      # @raise [Invalid]
      def raise_if_any
        raise Invalid, @errors if @errors.any?
      end
    end
  end
end
