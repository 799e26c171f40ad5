# frozen_string_literal: true

module Estrel
  module Audience
    # Words one clause as phrases, see {Sentence}. A phrase with a slot can be edited where it stands: the slot tells
    # how, and the path which piece of the clause's JSON.
    class ClauseParts
      # @param catalogue [Catalogue] gives the types of properties
      def initialize(catalogue)
        @catalogue = catalogue
      end

      # @param clause [Object] a clause that holds no others
      # @return [Array<Hash>] parts
      def of(clause)
        case clause
        when Clause::Attribute then attribute(clause)
        when Clause::Kind then [plain("who are"), part(kinds(clause), "who", "kinds", "kind")]
        when Clause::Reachable then reachable(clause)
        when Clause::Campaign then campaign(clause)
        when Clause::Did then did(clause)
        when Clause::LifecycleState then lifecycle(clause)
        when Clause::Moment then moment(clause)
        when Clause::Rhythm then rhythm(clause)
        when Clause::SameVisit then same_visit(clause)
        when Clause::Order then order(clause)
        when Clause::Changed then changed(clause)
        when Clause::Membership then membership(clause)
        end
      end

      # @return [Hash] connecting words
      def plain(text) = { text: text, ink: nil, slot: nil, path: nil, about: nil }

      private

      def part(text, ink, slot, path, about = nil) = { text: text, ink: ink, slot: slot, path: path, about: about }

      def kinds(clause) = Wording.either(clause.kinds.map { |kind| "#{kind}s" })

      def reachable(clause)
        [plain("who can be reached by"), part(Wording.either(clause.channels), "who", "channels", "reachable")]
      end

      def campaign(clause)
        words = CampaignWording.new(clause)
        from = words.from && part(words.from, "state", "campaign", "campaign")
        [plain(words.opening), part(words.asked, "what", "campaign", "campaign"), *[from].compact,
         window(clause.window, "campaign")]
      end

      def attribute(clause)
        [plain("whose"), part(clause.name, "who", "attribute", "attribute"),
         *comparison(clause.comparison, "who", "attribute", { attribute: clause.name }, ever: clause.ever?)]
      end

      def membership(clause)
        words = [part("“#{clause.name}”", "who", "audience", "audience")]
        return [plain("who are in"), *words] unless clause.on

        [plain("who were in"), *words, part("on #{Wording.date(clause.on)}", "when", "audience", "audience")]
      end

      def lifecycle(clause)
        states = part(Wording.either(clause.states), "state", "states", "lifecycle")
        span = ->(text) { part(text, "when", "states", "lifecycle") }
        rules = clause.reference ? [part(policy(clause), "state", "states", "lifecycle")] : []
        back = clause.returned ? [plain("having come back")] : []
        return [plain("who were"), states, *back, span.call("on #{Wording.date(clause.on)}"), *rules] if clause.on
        if clause.for_days
          return [plain("who have been"), states, span.call("for at least #{days(clause.for_days)}"),
                  *rules]
        end
        before = clause.from && part(Wording.either(clause.from), "state", "states", "lifecycle")
        unless clause.entered_days
          return [plain("who are"), states, *(before && [plain("and were"), before, plain("before")]), *back, *rules]
        end

        from = before ? [plain("from"), before] : []
        [plain("who became"), states, *from, *back, span.call("in the last #{days(clause.entered_days)}"), *rules]
      end

      def policy(clause)
        return "by other rules" if clause.reference["rules"]

        "as “#{clause.policy_name}”#{" version #{clause.reference["version"]}" if clause.reference["version"]}"
      end

      def days(count) = count == 1 ? "day" : "#{count} days"

      def did(clause)
        return measured(clause) if clause.measure

        [*opening(clause), *conditions(clause.selection, "did"), window(clause.window, "did")]
      end

      def opening(clause)
        if clause.count.none?
          return [plain("who have"), part("not", "what", "count", "did"),
                  part(Wording.events(clause.selection, done: false), "what", "events", "did")]
        end

        [plain("who"), events(clause.selection, "did"), part(Wording.count(clause.count), "what", "count", "did")]
      end

      def measured(clause)
        measure = clause.measure
        about = if Measure::VALUES.include?(measure.kind) then property(clause.selection, measure.property)
                else { property: measure.property, type: "number" }
                end
        [plain("who"), events(clause.selection, "did"), *conditions(clause.selection, "did"),
         window(clause.window, "did"), plain("and whose"),
         part(Wording::MEASURES.fetch(measure.kind), "what", "count", "did"),
         part(measure.property, "what", "count", "did"), *comparison(measure.comparison, "what", "did.measure", about)]
      end

      def moment(clause)
        [plain("who"), events(clause.selection, clause.kind), *conditions(clause.selection, clause.kind),
         plain("for the"), part("#{clause.kind} time", "what", "moment", clause.kind),
         window(clause.window, clause.kind)]
      end

      def rhythm(clause)
        each = clause.needed == clause.periods ? "in each" : "in #{clause.needed}"
        [plain("who"), events(clause.selection, "rhythm"), *conditions(clause.selection, "rhythm"),
         part("at least #{Wording.times(clause.times)}", "what", "rhythm", "rhythm"),
         part("#{each} of the last #{clause.periods} #{clause.unit}s", "when", "rhythm", "rhythm")]
      end

      def same_visit(clause)
        events = clause.selections.each_with_index.flat_map do |selection, index|
          [plain("and"), *selected(selection, "visit.all[#{index}]")]
        end
        [plain("who"), *events.drop(1), part("within one visit", "when", "visit", "visit"),
         window(clause.window, "visit")]
      end

      def order(clause)
        steps = clause.steps.each_with_index.flat_map do |step, index|
          path = "order.steps[#{index}]"
          [*(joint(step.link, path) if index.positive?), *selected(step.selection, path)]
        end
        [plain("who"), *steps, window(clause.window, "order"), *absence(clause.absence)]
      end

      def joint(link, path)
        said = [("as the very next thing" if link.next), ("within #{Wording.within(link.within)}" if link.within),
                ("in the same visit" if link.same_visit), ("on another day" if link.other_day)].compact
        [plain("and"), part(said.empty? ? "then" : "then #{said.join(" ")}", "when", "link", path)]
      end

      def absence(absence)
        return [] unless absence

        path = "order.then_not"
        [plain("but have"), part("not within #{Wording.within(absence.written)}", "when", "within", path),
         part(Wording.events(absence.selection, done: false), "what", "events", path),
         *conditions(absence.selection, path)]
      end

      def changed(clause)
        about = { attribute: clause.field.name }
        ends = { "from" => clause.from, "to" => clause.to }.select { |_, comparison| comparison }
        said = ends.flat_map do |word, comparison|
          [plain("#{word} one that"), *comparison(comparison, "who", "changed.#{word}", about)]
        end
        [plain("whose"), part(clause.field.name, "who", "attribute", "changed"),
         part("changed", "what", "changed", "changed"), *said, window(clause.window, "changed")]
      end

      def selected(selection, path) = [events(selection, path), *conditions(selection, path)]

      def events(selection, path) = part(Wording.events(selection), "what", "events", path)

      def window(window, path) = part(Wording.window(window), "when", "window", path)

      def conditions(selection, path)
        selection.where.filters.each_with_index.flat_map do |filter, index|
          [plain(index.zero? ? "where" : "and"), *condition(filter, "#{path}.where[#{index}]", selection)]
        end
      end

      def condition(filter, path, selection)
        return group(filter, path, selection) if filter.is_a?(FilterGroup)

        about = property(selection, filter.property)
        [part(filter.property, "what", "property", path, about), *comparison(filter.comparison, "what", path, about)]
      end

      def group(group, path, selection)
        joint = plain(group.kind == "any" ? "or" : "and")
        inner = group.filters.each_with_index.flat_map do |filter, index|
          [joint, *condition(filter, "#{path}.#{group.kind}[#{index}]", selection)]
        end
        [plain("("), *inner.drop(1), plain(")")]
      end

      # An event type that has the property, for offering its values.
      def property(selection, name)
        owner = selection.types(@catalogue).find { |type| type.properties.key?(name) }
        { event: owner&.name, property: name }
      end

      def comparison(comparison, ink, path, about, ever: false)
        about = { type: comparison.type, **about }
        words = [part(Wording.comparison(comparison.operator, ever: ever), ink, "compare", path, about)]
        return words if Comparison::WITHOUT_VALUE.include?(comparison.operator)

        words << part(Wording.values(comparison), ink, "value", path, about)
        words << plain("(in any case)") if comparison.ignore_case?
        words
      end
    end
  end
end
