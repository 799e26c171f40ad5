# frozen_string_literal: true

module Estrel
  module Analyses
    # What people do right after, or right before, something: which event came next, how often, by how many people and
    # how soon, and what came after that. Times and people add up over the parts.
    #
    # The very next event is what an audience's order means by it: whatever happened at the next instant, system
    # messages included; where several events lie at that instant, each of them is next. So every branch says its
    # people.
    class NextEvents < Analysis
      # Days looked at unless others are asked for.
      DAYS = 90
      DEPTH = 2
      # Branches that are told one by one at each place; the others are put together.
      TOP = 6
      MEDIAN = 0.5

      # One way people went on: `event` the raw name, `share` of the times of the place it branches off, `wait` the
      # median number of seconds, `ended` how often nothing came after it, `other` how many further event types came
      # next and how often; `did` the condition of whoever went this way.
      Branch = Struct.new(:event, :name, :times, :share, :people, :wait, :did, :ended, :other, :branches, :audiences,
                          keyword_init: true) do
        # @return [Hash{Symbol => Object}] plain JSON
        def to_h = { **super, branches: branches.map(&:to_h) }
      end

      # First which ways there are, then about how long these took, then exactly.
      def more?(found) = found.size < 3

      def doing(found) = found.empty? ? super : "Measuring times"

      def partial(part, found)
        paths = Paths.new(self, part)
        ways, sought = found
        return paths.found(audiences) unless ways

        sought ? Waits.near(paths.placed(ways), sought) : Waits.counted(paths.placed(ways))
      end

      def settled(round, found) = found.size == 1 ? Waits.new(round, [MEDIAN]) : round

      def carried(found)
        found.each_with_index.map { |round, at| at.zero? ? Tree.new(self, round).ways.sort : round.sought }
      end

      def answer((found, waits, near))
        tree = Tree.new(self, found, waits, near)
        Answer.new(finding: finding(tree), picture: picture(tree), caveats: caveats, tables: tables(tree))
      end

      # @return [Audience::Selection]
      def selection = @selection ||= Metric.selection(question["event"], workspace.catalogue, "event")

      # @return [Boolean] whether it is about what came before
      def before? = question["direction"] == "before"

      # @return [Array<Catalogue::EventType>, nil] those alone that can come next; nil for all
      def among
        named = question["among"] or return
        @among ||= Metric.selection({ "events" => named }, workspace.catalogue, "among").types(workspace.catalogue)
      end

      # @return [Integer, nil] microseconds from one to the next at most; nil where the visit says how long
      def within = question["within"] && Audience::Link.micros(question["within"])

      # @return [Audience::Definition, nil] of those whose events alone are looked at; nil for everybody
      # @raise [Invalid]
      def who
        return unless question["who"]

        @who ||= workspace.stored.definition(question["who"], workspace.catalogue)
      rescue Audience::Invalid => e
        raise Invalid, (e.errors.map { |error| { **error, place: "who" } })
      end

      # @return [Integer]
      def depth = question["depth"] || DEPTH

      # @return [Date]
      def from = day("from") || (workspace.as_of - DAYS + 1)

      # @return [Date]
      def to = workspace.as_of

      # @param events [Array<String>] raw names, from the one that came first to the last
      # @return [Hash] the condition, as JSON, of whoever went this way
      def did(events)
        soon = within ? { "within" => question["within"] } : { "same_visit" => true }
        link = { "next" => true, **soon, **(among ? { "among" => among.map(&:name) } : {}) }
        others = events.map { |name| { "event" => name } }
        # What came before may lie before the range.
        steps = before? ? [*others.reverse, { **selection.to_h, **window }] : [selection.to_h, *others]
        steps = [steps.first, *steps.drop(1).map { |step| { **step, **link } }]
        theirs({ "order" => { "steps" => steps, "window" => before? ? { "to" => to.iso8601 } : window["window"] } })
      end

      # @return [Hash] the condition, as JSON, of whoever did what it begins with
      def did_first
        theirs({ "did" => { **selection.to_h, "count" => { "at_least" => 1 }, **window } })
      end

      # @return [String] what the event is called
      def name = Audience::Phrases.done(selection, workspace.catalogue)

      private

      def who_said = who && Audience::Sentence.new(who, workspace.catalogue).to_s

      def theirs(condition) = who ? { "all" => [who.to_h, condition] } : condition

      def window = { "window" => { "from" => from.iso8601, "to" => to.iso8601 } }

      def rests_on
        raise Invalid.at("from", "the start date is after the as-of date") if from > to

        selection
        among
        [*super, from, to, who&.root&.key]
      end

      def finding(tree)
        return "No one did this in this period." if tree.times.zero?

        first = tree.branches.max_by(&:times)
        occurrences = English.counted(tree.times, "occurrence")
        ending = "#{nothing} #{limit}: #{English.percent(tree.ended.fdiv(tree.times))}"
        return "#{ending} of #{occurrences}." unless first

        "Most frequent #{before? ? "previous" : "next"} event#{" of the #{among.size} selected" if among}: " \
          "#{English.quoted(first.name)}, #{English.percent(first.share)} of #{occurrences} " \
          "(#{English.people(first.people)}, #{soon(first)}). #{ending}."
      end

      def nothing
        return "None of the selected events" if among

        before? ? "No earlier event" : "No further event"
      end

      def limit = within ? "within #{English.within(question["within"])}" : "in the same visit"

      def soon(branch) = "median #{English.duration(branch.wait)} #{before? ? "earlier" : "later"}"

      def picture(tree)
        { from: from, to: to, direction: before? ? "before" : "after", within: question["within"], depth: depth,
          who: who_said, among: among&.map(&:name), name: name,
          times: tree.times, people: tree.people, ended: tree.ended,
          other: tree.other, did: did_first, ids: audiences.map(&:id), names: audiences.map(&:name),
          branches: tree.branches.map(&:to_h) }
      end

      def caveats
        found = []
        found << passed_over if among
        found << "System messages belong to no visit, so nothing follows them in one." if outside_visits?
        found << "People in several audiences count in each." if audiences.size > 1
        found
      end

      def outside_visits? = within.nil? && selection.types(workspace.catalogue).any?(&:not_activity)

      def passed_over
        names = among.map { |type| English.quoted(workspace.catalogue.names.event(type.name)) }
        "Only #{English.list(names, "and")} are considered; other events in between are ignored."
      end

      def tables(tree) = [first_table(tree), *(paths_table(tree) if depth > 1)]

      def first_table(tree)
        told = audiences.each_with_index.flat_map do |audience, index|
          [["people_#{index}", audience.name, "people"], ["share_#{index}", "% of the audience's occurrences", "share"]]
        end
        columns = [%w[event Event text], %w[times Times count], ["share", "% of all occurrences", "share"],
                   %w[people People people], ["wait", "Median time", "duration"], *told]
        rows = tree.branches.map { |branch| row(branch) }
        Table.new("next", before? ? "Previous event" : "Next event", columns, rows)
      end

      def row(branch)
        cells = audiences.each_with_index.to_h do |audience, index|
          ["people_#{index}", { "all" => [{ "audience" => { "id" => audience.id } }, branch.did] }]
        end
        told = branch.audiences.flat_map { |one| one.values_at(:people, :share) }
        values = branch.to_h.values_at(:name, :times, :share, :people, :wait)
        Table.row([*values, *told], people: branch.did, cells: cells)
      end

      def paths_table(tree)
        columns = [%w[path Path text], %w[times Times count], ["share", "% of all occurrences", "share"],
                   %w[people People people], ["wait", "Median wait of the last step", "duration"]]
        rows = tree.paths.select { |names, _| names.size > 1 }.map do |names, branch|
          values = [branch.times, branch.times.fdiv(tree.times), branch.people, branch.wait]
          Table.row([names.join(before? ? " ← " : " → "), *values], people: branch.did)
        end
        Table.new("paths", "Longer paths", columns, rows)
      end
    end
  end
end
