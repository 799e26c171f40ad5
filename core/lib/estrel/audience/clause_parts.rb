# frozen_string_literal: true

module Estrel
  module Audience
    # Words one clause as phrases, see {Sentence}. A phrase with a slot can be edited where it stands; one that says
    # more than the editor of its slot knows has none.
    class ClauseParts
      # @param clause [Object] a clause that holds no others
      # @return [Array<Hash>] parts
      def of(clause)
        case clause
        when Clause::Attribute then attribute(clause)
        when Clause::Did then did(clause)
        when Clause::LifecycleState then lifecycle(clause)
        when Clause::Moment then moment(clause)
        when Clause::Rhythm then rhythm(clause)
        when Clause::SameVisit then same_visit(clause)
        when Clause::Order then order(clause)
        when Clause::Changed then changed(clause)
        when Clause::Membership then [plain("who are in"), part("“#{clause.name}”", "who", nil)]
        end
      end

      # @return [Hash] connecting words
      def plain(text) = { text: text, ink: nil, slot: nil, index: nil }

      private

      def part(text, ink, slot, index = nil) = { text: text, ink: ink, slot: slot, index: index }

      def attribute(clause)
        [plain("whose"), part(clause.name, "who", "attribute.name"),
         *comparison(clause.comparison, "who", "attribute", ever: clause.ever?)]
      end

      def lifecycle(clause)
        states = part(Wording.either(clause.states), "state", "lifecycle.is")
        return [plain("who were"), states, part("on #{Wording.date(clause.on)}", "when", nil)] if clause.on
        return [plain("who have been"), states, span("for at least", clause.for_days)] if clause.for_days
        return [plain("who are"), states] unless clause.entered_days

        from = clause.from ? [plain("from"), part(Wording.either(clause.from), "state", nil)] : []
        [plain("who became"), states, *from, span("in the last", clause.entered_days)]
      end

      def span(words, count) = part("#{words} #{days(count)}", "when", nil)

      def days(count) = count == 1 ? "day" : "#{count} days"

      def did(clause)
        return measured(clause) if clause.measure

        [*opening(clause), *conditions(clause.selection, "filter"), window(clause.window, "did.window")]
      end

      def opening(clause)
        slot = one_type(clause.selection, "did.event")
        if clause.count.none?
          return [plain("who have"), part("not", "what", "did.count"),
                  part(Wording.events(clause.selection, done: false), "what", slot)]
        end

        [plain("who"), part(Wording.events(clause.selection), "what", slot),
         part(Wording.count(clause.count), "what", clause.count.unit == "events" ? "did.count" : nil)]
      end

      def measured(clause)
        measure = clause.measure
        [plain("who"), part(Wording.events(clause.selection), "what", one_type(clause.selection, "did.event")),
         *conditions(clause.selection, "filter"), window(clause.window, "did.window"),
         plain("and whose #{Wording::MEASURES.fetch(measure.kind)}"), part(measure.property, "what", nil),
         part("#{Wording.comparison(measure.comparison.operator)} #{Wording.values(measure.comparison)}", "what", nil)]
      end

      def moment(clause)
        [plain("who #{Wording.events(clause.selection)}"), *conditions(clause.selection, nil),
         part("for the #{clause.kind} time", "what", nil), window(clause.window, nil)]
      end

      def rhythm(clause)
        each = clause.needed == clause.periods ? "in each" : "in #{clause.needed}"
        [plain("who"), part(Wording.events(clause.selection), "what", nil), *conditions(clause.selection, nil),
         part("at least #{Wording.times(clause.times)}", "what", nil),
         part("#{each} of the last #{clause.periods} #{clause.unit}s", "when", nil)]
      end

      def same_visit(clause)
        events = clause.selections.flat_map { |selection| [plain("and"), *selected(selection)] }.drop(1)
        [plain("who"), *events, part("within one visit", "when", nil), window(clause.window, nil)]
      end

      def order(clause)
        steps = clause.steps.each_with_index.flat_map do |step, index|
          [*(joint(step.link) if index.positive?), *selected(step.selection)]
        end
        [plain("who"), *steps, window(clause.window, nil), *absence(clause.absence)]
      end

      def joint(link)
        said = [("as the very next thing" if link.next), ("within #{Wording.within(link.within)}" if link.within),
                ("in the same visit" if link.same_visit), ("on another day" if link.other_day)].compact
        said.empty? ? [plain("and then")] : [plain("and then"), part(said.join(" "), "when", nil)]
      end

      def absence(absence)
        return [] unless absence

        [plain("but have"), part("not within #{Wording.within(absence.written)}", "when", nil),
         part(Wording.events(absence.selection, done: false), "what", nil), *conditions(absence.selection, nil)]
      end

      def changed(clause)
        ends = { "from" => clause.from, "to" => clause.to }.select { |_, comparison| comparison }
        said = ends.flat_map { |word, comparison| [plain("#{word} one that"), *comparison(comparison, "who", nil)] }
        [plain("whose"), part(clause.field.name, "who", nil), plain("changed"), *said, window(clause.window, nil)]
      end

      def selected(selection) = [part(Wording.events(selection), "what", nil), *conditions(selection, nil)]

      def one_type(selection, slot) = selection.events&.one? ? slot : nil

      # The editor of windows knows the plain ones.
      def window(window, slot)
        plain = (window.to_h.keys - %w[ever last_days from to]).empty? && window.from.nil? == window.to.nil?
        part(Wording.window(window), "when", plain ? slot : nil)
      end

      def conditions(selection, owner)
        selection.where.filters.each_with_index.flat_map do |filter, index|
          joint = plain(index.zero? ? "where" : "and")
          filter.is_a?(FilterGroup) ? [joint, *group(filter)] : [joint, *condition(filter, owner, index)]
        end
      end

      def condition(filter, owner, index)
        [part(filter.property, "what", owner && "#{owner}.property", owner && index),
         *comparison(filter.comparison, "what", owner, owner && index)]
      end

      def group(group)
        joint = plain(group.kind == "any" ? "or" : "and")
        inner = group.filters.flat_map do |filter|
          [joint, *(filter.is_a?(FilterGroup) ? group(filter) : condition(filter, nil, nil))]
        end
        [plain("("), *inner.drop(1), plain(")")]
      end

      def comparison(comparison, ink, owner, index = nil, ever: false)
        slot = comparison.value.is_a?(Array) ? nil : owner
        words = [part(Wording.comparison(comparison.operator, ever: ever), ink, slot && "#{slot}.compare", index)]
        return words if Comparison::WITHOUT_VALUE.include?(comparison.operator)

        words << part(Wording.values(comparison), ink, slot && "#{slot}.value", index)
        words << plain("(in any case)") if comparison.ignore_case?
        words
      end
    end
  end
end
