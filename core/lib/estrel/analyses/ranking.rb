# frozen_string_literal: true

module Estrel
  module Analyses
    # What people do most: every event type over some days, by how many people did it or how often, against as many days
    # before; beside it the audiences that are compared. People and times add up over the parts.
    class Ranking < Analysis
      # Days looked at unless others are asked for.
      DAYS = 30
      # Points of the small picture of each, at most.
      POINTS = 30
      EVERYBODY = EventGroups.new([], nil, nil)
      # One event type: what it is called, counts over the range, `trend` people by bucket, and of every audience how
      # many people and what share of the active ones.
      Place = Struct.new(:event, :name, :did, :people, :times, :share, :per_person, :before, :change, :trend,
                         :audiences, keyword_init: true)
      private_constant :POINTS, :EVERYBODY

      def partial(part, _found)
        { types: types.to_h { |type| [type.name, counted(type, part)] }, active: (active(part) if workspace.rules) }
      end

      def answer((found))
        @found = found
        finding = Finding.new(self, places, audiences.map(&:name)).to_s
        Answer.new(finding: finding, picture: picture, tables: [table], caveats: caveats)
      end

      # @return [Lifecycle::Steps] as many days before, as one period
      def before = @before ||= Lifecycle::Steps.between(from - 1 - (workspace.as_of - from + 1), from - 1)

      # @param group [Integer] place of the audience
      # @param of_audience [Boolean] rather than of everybody
      # @return [Integer, nil] people active in the range; nil without lifecycle rules
      def active_people(group = 0, of_audience: false)
        return unless @found[:active]

        counts = EventCounts.new(@found[:active][of_audience ? 1 : 0], whole)
        counts.people(counts.whole(group))
      end

      private

      def rests_on = [*super, range.key, workspace.catalogue.event_types.values.map { |type| [type.name, type.hidden] }]

      # Hidden types are ranked nowhere.
      def types = @types ||= workspace.catalogue.event_types.values.reject(&:hidden)

      def from = day("from") || (workspace.as_of - DAYS + 1)

      # The days in buckets of equal length, but for the first.
      def range
        @range ||= begin
          days = (workspace.as_of - from).to_i + 1
          most = Lifecycle::Steps::MAX_DAYS
          raise Invalid.at("from", "the start date is after the as-of date") unless days.positive?
          raise Invalid.at("from", "ask for at most #{English.number(most)} days") if days > most

          bucket = days.fdiv(POINTS).ceil
          ends = (0...days).step(bucket).map { |ago| workspace.as_of - ago }
          Lifecycle::Steps.between(from - 1, *ends.reverse)
        end
      end

      def by_audience = @by_audience ||= EventGroups.new(audiences, nil, nil)

      def counted(type, part)
        selection = Audience::Selection.new([type.name], Audience::FilterGroup.new("all", []))
        both = selection.rows(part, Audience::Window.new(from: before.dates.first + 1, to: workspace.as_of))
        now = Polars.col("day") >= Calendar.number(from)
        rows, earlier = [now, now.is_not].map { |wanted| both.filter(wanted) }
        { now: counts(EVERYBODY, rows, range, part, %i[people times]),
          before: counts(EVERYBODY, earlier, before, part, %i[people]),
          audiences: (counts(by_audience, rows, whole, part, %i[people]) if audiences.any?) }
      end

      # The range as one period.
      def whole = @whole ||= Lifecycle::Steps.between(from - 1, workspace.as_of)

      def counts(groups, rows, steps, part, needs)
        groups.of(rows, part, nil).map { |told| EventCounts.of(told, steps, needs, personal: true) }
              .reduce { |one, other| Sum.of(one, other) }
      end

      def active(part)
        days = EventCounts.active_days(part, whole)
        [EVERYBODY, *(by_audience if audiences.any?)].map { |groups| counts(groups, days, whole, part, %i[people]) }
      end

      def places
        @places ||= types.map { |type| place(type) }
                         .sort_by { |place| [-place[counted_by], -place.people, place.event] }
      end

      def counted_by = (question["counted_by"] || "people").to_sym

      def place(type)
        found = @found[:types].fetch(type.name)
        now = EventCounts.new(found[:now], range)
        people = now.people(now.whole)
        times = now.times(now.whole)
        earlier = EventCounts.new(found[:before], before).then { |counts| counts.people(counts.whole) }
        Place.new(event: type.name, name: workspace.catalogue.names.event(type.name), did: did(type), people: people,
                  times: times, share: share(people, active_people), per_person: share(times, people),
                  before: earlier, change: share(people - earlier, earlier),
                  trend: (0...(range.size - 1)).map { |at| now.people(at) },
                  audiences: told_of_audiences(found[:audiences])).freeze
      end

      def share(part, all) = all&.positive? ? part.fdiv(all) : nil

      def told_of_audiences(found)
        audiences.each_index.map do |index|
          counts = EventCounts.new(found, whole)
          people = counts.people(counts.whole(index))
          { people: people, share: share(people, active_people(index, of_audience: true)) }
        end
      end

      def did(type)
        { "did" => { "event" => type.name, "where" => [], "count" => { "at_least" => 1 },
                     "window" => { "from" => from.iso8601, "to" => workspace.as_of.iso8601 } } }
      end

      def picture
        { from: from, to: workspace.as_of, before: { from: before.dates.first + 1, to: before.dates.last },
          counted_by: counted_by.to_s, active: active_people, ids: audiences.map(&:id), names: audiences.map(&:name),
          periods: range.periods(workspace.today), rows: places.map(&:to_h) }
      end

      def caveats
        found = []
        found << "The share of active people needs lifecycle rules." unless @found[:active]
        found << "People in several audiences count in each." if audiences.size > 1
        found
      end

      def table
        told = audiences.each_with_index.flat_map do |audience, index|
          [["people_#{index}", audience.name, "people"], ["share_#{index}", "Share of active", "share"]]
        end
        Table.new("ranking", "By event type",
                  [%w[event Event text], %w[people People people], ["share", "Share of active", "share"],
                   %w[times Times count], ["per_person", "Times per person", "mean"],
                   ["before", "People before", "count"], %w[change Change growth], *told],
                  places.map { |place| row(place) })
      end

      def row(place)
        told = place.audiences.flat_map { |one| one.values_at(:people, :share) }
        values = place.to_h.values_at(:name, :people, :share, :times, :per_person, :before, :change)
        cells = audiences.each_with_index.to_h do |audience, index|
          ["people_#{index}", { "all" => [{ "audience" => { "id" => audience.id } }, place.did] }]
        end
        Table.row([*values, *told], people: place.did, cells: { "times" => place.did, **cells })
      end
    end
  end
end
