# frozen_string_literal: true

module Estrel
  module Analyses
    class Ranking
      # What is said over the picture: what comes first, what has changed most against the days before, and of two
      # audiences, in what they differ most. Nothing is compared where there are fewer than {FEWEST} people.
      class Finding
        FEWEST = 50

        # @param ranking [Ranking]
        # @param places [Array<Place>] in their order
        # @param names [Array<String>] of the audiences that are compared
        def initialize(ranking, places, names)
          @ranking = ranking
          @places = places
          @names = names
        end

        # @return [String]
        def to_s
          first = @places.first
          return "No events in this period." if first.nil? || first.people.zero?

          ["#{comes_first(first)}#{changed}.", differing].reject(&:empty?).join(" ")
        end

        private

        def comes_first(place)
          active = @ranking.active_people
          of = " (#{English.percent(place.share)} of #{English.number(active)} active people)" if place.share
          "Top event: #{English.quoted(place.name)}, #{English.people(place.people)}#{of}, " \
            "#{English.counted(place.times, "time")}"
        end

        # Both stretches of days have to be over, and to lie within the data.
        def changed
          oldest = @ranking.workspace.ledger.oldest_day
          return "" unless @ranking.workspace.ended? && (oldest.nil? || @ranking.before.dates.first + 1 >= oldest)

          found = @places.select { |place| place.before >= FEWEST }.max_by { |place| place.change.abs }
          return "" if found.nil? || found.change.zero?

          "; largest change: #{English.quoted(found.name)}, #{English.growth(found.change)} people vs the previous " \
            "period"
        end

        # Of two audiences, the type whose shares differ most, where chance does not explain it.
        def differing
          return "" if @names.size < 2

          all = [0, 1].map { |index| @ranking.active_people(index, of_audience: true).to_i }
          return "" if all.min < FEWEST

          place, difference = largest_difference(all)
          return "" unless place

          shares = place.audiences.first(2).map { |told| English.percent(told[:share]) }
          "Largest difference between #{English.quoted(@names[0])} and #{English.quoted(@names[1])}: " \
            "#{English.quoted(place.name)}, #{shares[0]} vs #{shares[1]} of active people " \
            "(#{English.interval_of_difference(difference)})."
        end

        # Each type is one comparison.
        def largest_difference(all)
          found = @places.filter_map do |place|
            one, other = place.audiences.first(2).map { |told| told[:people] }
            next if one > all[0] || other > all[1]

            difference = Statistics::Shares.clear_difference(other, all[1], one, all[0], @places.size)
            [place, difference] if difference
          end
          found.max_by { |_, difference| difference[:estimate].abs }
        end
      end
    end
  end
end
