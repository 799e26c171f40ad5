# frozen_string_literal: true

module Estrel
  module Audience
    # Says a definition in plain English, as numbered lines of phrases.
    #
    # A line is `{place:, kind:, parts:, lines:}`; a part is `{text:, ink:, slot:, path:, about:}`. `ink` tells what
    # kind of thing a phrase names (who, what, when, state) and is nil for connecting words; `slot` tells an editor how
    # the phrase is changed, `path` which piece of the clause at `place` it stands for, and `about` which attribute or
    # property, of which type, a comparison is about.
    class Sentence
      # @param definition [Definition]
      # @param catalogue [Catalogue]
      def initialize(definition, catalogue)
        @definition = definition
        @words = Phrases.new(catalogue)
      end

      # @return [Array<Hash>] one line per top-level clause
      def lines
        @definition.clauses.each_with_index.map { |clause, index| line(clause, @definition.place(index)) }
      end

      # @return [String] the whole sentence on one line
      def to_s
        return "Everybody" if @definition.clauses.empty?

        "People #{lines.map { |line| joined(line) }.join(", and ")}"
      end

      # @param clause [Object]
      # @return [String] what it says, with the clauses inside it
      def text(clause) = joined(line(clause, ""))

      # @param clause [Object]
      # @return [String] what it says by itself, without the clauses inside it
      def words(clause) = line(clause, "")[:parts].map { |part| part[:text] }.join(" ")

      private

      def joined(line)
        words = line[:parts].map { |part| part[:text] }.join(" ")
        return words if line[:lines].empty?

        joint = line[:kind] == "any" ? "; or " : "; and "
        "#{words} (#{line[:lines].map { |inner| joined(inner) }.join(joint)})"
      end

      def line(clause, place)
        inner = clause.branches.map { |suffix, one| line(one, place.empty? ? suffix : "#{place}.#{suffix}") }
        { place: place, kind: clause.to_h.keys.first, parts: clause.parts(@words), lines: inner }
      end
    end
  end
end
