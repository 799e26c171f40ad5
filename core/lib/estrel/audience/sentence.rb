# frozen_string_literal: true

module Estrel
  module Audience
    # Says a definition in plain English, as numbered lines of phrases.
    #
    # A line is `{place:, kind:, parts:, lines:}`; a part is `{text:, ink:, slot:, path:, about:}`. `ink` tells what
    # kind of thing a phrase names (who, what, when, state) and is nil for connecting words; `slot` tells an editor how
    # the phrase is changed, `path` which piece of the condition at `place` it stands for, and `about` which attribute
    # or property, of which type, a comparison is about.
    class Sentence
      # @param definition [Definition]
      # @param catalogue [Catalogue]
      def initialize(definition, catalogue)
        @definition = definition
        @words = Phrases.new(catalogue)
      end

      # @return [Array<Hash>] one line per top-level condition
      def lines
        @definition.conditions.each_with_index.map { |condition, index| line(condition, @definition.place(index)) }
      end

      # @return [String] the whole sentence on one line
      def to_s
        return "All people" if @definition.conditions.empty?

        texts = @definition.conditions.map { |condition| text(condition) }
        "People #{texts.reduce { |said, text| "#{said}#{text.start_with?("except") ? ", " : ", and "}#{text}" }}"
      end

      # @param condition [Object]
      # @return [String] what it says, with the conditions inside it
      def text(condition) = condition.text(@words)

      # @param condition [Object]
      # @return [String] what it says by itself, without the conditions inside it
      def words(condition) = condition.parts(@words).map { |part| part[:text] }.join(" ")

      private

      def line(condition, place)
        inner = condition.branches.map { |suffix, one| line(one, place.empty? ? suffix : "#{place}.#{suffix}") }
        { place: place, kind: condition.to_h.keys.first, parts: condition.parts(@words), lines: inner }
      end
    end
  end
end
