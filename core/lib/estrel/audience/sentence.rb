# frozen_string_literal: true

module Estrel
  module Audience
    # Says a definition in plain English, as numbered lines of phrases.
    #
    # A line is `{place:, kind:, parts:, lines:}`; a part is `{text:, ink:, slot:, index:}`. `ink` tells what kind of
    # thing a phrase names (who, what, when, state) and is nil for connecting words; `slot` and, for property filters,
    # `index` tell an editor which piece of the clause at `place` the phrase stands for.
    class Sentence
      # @param definition [Definition]
      def initialize(definition)
        @definition = definition
      end

      # @return [Array<Hash>] one line per top-level clause
      def lines
        @definition.clauses.each_with_index.map { |clause, index| line(clause, @definition.place(index)) }
      end

      # @return [String] the whole sentence on one line
      def to_s
        return "Everybody" if @definition.clauses.empty?

        "People #{lines.map { |line| text(line) }.join(", and ")}"
      end

      private

      def text(line)
        words = line[:parts].map { |part| part[:text] }.join(" ")
        return words if line[:lines].empty?

        joint = line[:kind] == "any" ? "; or " : "; and "
        "#{words} (#{line[:lines].map { |inner| text(inner) }.join(joint)})"
      end

      def line(clause, place)
        kind = clause.to_h.keys.first
        prefix = place.empty? ? "" : "#{place}."
        parts, lines = case clause
                       when Clause::Group then group(clause, "#{prefix}#{kind}")
                       when Clause::Negation then [[plain("but not people")], [line(clause.clause, "#{prefix}not")]]
                       when Clause::Attribute then [attribute(clause), []]
                       when Clause::Did then [did(clause), []]
                       when Clause::LifecycleState then [[plain("who are"), states(clause)], []]
                       end
        { place: place, kind: kind, parts: parts, lines: lines }
      end

      def group(clause, place)
        words = if clause.clauses.empty?
                  clause.kind == "all" ? "whoever they are" : "of no kind (nothing is listed yet)"
                else
                  "for whom #{clause.kind == "any" ? "at least one of these holds" : "all of these hold"}:"
                end
        [[plain(words)], clause.clauses.each_with_index.map { |inner, index| line(inner, "#{place}[#{index}]") }]
      end

      def attribute(clause)
        [plain("whose"), part(clause.name, "who", "attribute.name"),
         *comparison(clause.comparison, "who", "attribute", ever: clause.ever?)]
      end

      def states(clause) = part(Wording.either(clause.states), "state", "lifecycle.is")

      def did(clause)
        opening = if clause.count.none?
                    [plain("who have"), part("not", "what", "did.count"),
                     part(Wording.not_done(clause.event), "what", "did.event")]
                  else
                    [plain("who"), part(Wording.done(clause.event), "what", "did.event"),
                     part(Wording.count(clause.count), "what", "did.count")]
                  end
        opening + filters(clause) + [part(Wording.window(clause.window), "when", "did.window")]
      end

      def filters(clause)
        clause.filters.each_with_index.flat_map do |filter, index|
          [plain(index.zero? ? "where" : "and"), part(filter.property, "what", "filter.property", index),
           *comparison(filter.comparison, "what", "filter", index)]
        end
      end

      def comparison(comparison, ink, owner, index = nil, ever: false)
        words = [part(Wording.comparison(comparison.operator, ever: ever), ink, "#{owner}.compare", index)]
        return words if Comparison::WITHOUT_VALUE.include?(comparison.operator)

        words << part(Wording.value(comparison.value), ink, "#{owner}.value", index)
        words << plain("(in any case)") if comparison.ignore_case?
        words
      end

      def plain(text) = { text: text, ink: nil, slot: nil, index: nil }

      def part(text, ink, slot, index = nil) = { text: text, ink: ink, slot: slot, index: index }
    end
  end
end
