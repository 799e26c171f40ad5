# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *visited*: how many visits somebody has paid, of all or only of those of some length, with so many events, at
      # some place in the order of a person's visits, that began or ended with something, or in which something was
      # done as often or as much as is asked. A visit
      # lies in the window where it begins there; how long it lasted and what was done in it is known up to the as-of
      # date. Frozen.
      class Visited < Condition
        SECOND = Calendar::MICROS
        # What is asked of a visit, by the two ends that may be given, with the column that tells it.
        RANGES = { "length" => %w[at_least below], "events" => %w[at_least at_most],
                   "number" => %w[at_least at_most] }.freeze
        COMPARED = { "at_least" => :>=, "at_most" => :<=, "below" => :< }.freeze
        # The events at either end of a visit.
        OUTER = { "began" => :first, "ended" => :last }.freeze
        private_constant :SECOND, :RANGES, :COMPARED, :OUTER

        def self.schema(_kind)
          ranges = RANGES.to_h do |name, ends|
            [name, Schema.object(ends.to_h { |key| [key, Schema.whole(0..1_000_000)] }, "minProperties" => 1)]
          end
          doing = Schema.list("maxItems" => 20, "items" => Schema.reference("Deed"))
          outer = OUTER.keys.to_h { |name| [name, Schema.reference("Selection")] }
          Schema.object({ "count" => Schema.reference("Count"), **ranges, "doing" => doing, **outer,
                          "window" => Schema.reference("Window") })
        end

        def self.read(body, place, reading, _kind)
          count = reading.fields.count(body["count"], "#{place}.count")
          window = reading.fields.window(body["window"], "#{place}.window")
          doing = (body["doing"] || []).each_with_index.map do |row, index|
            Deed.read(row, "#{place}.doing[#{index}]", reading)
          end
          outer = body.slice(*OUTER.keys).to_h { |name, row| [name, reading.selections.read(row, "#{place}.#{name}")] }
          ranges = RANGES.keys.to_h { |name| [name, range(body[name], "#{place}.#{name}", reading)] }
          return unless count && window && doing.all? && ranges.values.none?(:fault) && outer.values.all?
          return reading.fault("#{place}.count.of", "only visits can be counted here") if body.dig("count", "of")

          new(count: count, ranges: ranges.compact, doing: doing, outer: outer, window: window)
        end

        def self.range(json, place, reading)
          return json if json.nil? || json.size < 2

          least, most = json.values_at("at_least", json.key?("below") ? "below" : "at_most")
          return json if least < most || (least == most && !json.key?("below"))

          reading.fault(place, "the lower limit (#{least}) is greater than the upper limit (#{most})")
          :fault
        end
        private_class_method :range

        # @return [Count] how many such visits
        attr_reader :count
        # @return [Hash{String => Hash{String => Integer}}] `length` in seconds, `events`, `number`: `at_least`,
        #   `at_most` or `below`
        attr_reader :ranges
        # @return [Array<Deed>] all of which were done in the visit
        attr_reader :doing
        # @return [Hash{String => Selection}] what the first event of the visit was (`began`), and the last one
        #   (`ended`); of several at one instant the first or last one
        attr_reader :outer
        # @return [Window]
        attr_reader :window

        def initialize(count:, ranges:, doing:, outer:, window:)
          @count = count
          @ranges = ranges.freeze
          @doing = doing.freeze
          @outer = outer.freeze
          @window = window
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          each = visits(evaluator).lazy.group_by("profile_id").agg([Polars.len.alias("n")]).collect
          fits = count.expression(Polars.col("n"))
          return evaluator.membership(each.filter(fits)["profile_id"]) unless count.zero_fits?

          evaluator.invert(evaluator.membership(each.filter(fits.is_not)["profile_id"]))
        end

        # @return [Hash] plain JSON
        def to_h
          { "visited" => { "count" => count.to_h, **ranges, "doing" => doing.any? ? doing.map(&:to_h) : nil,
                           **outer.transform_values(&:to_h), "window" => window.to_h }.compact }
        end

        def parts(words)
          told = [words.plain(count.none? ? "who did not make" : "who made"),
                  words.part(count.none? ? "any visit" : VisitWording.number(count), "what", "visited", "visited")]
          told << words.part(VisitWording.ranges(ranges), "what", "visited", "visited") unless ranges.empty?
          outer.each_with_index do |(name, selection), index|
            told += [words.plain("#{index.zero? ? "that" : "and"} #{name.sub("began", "started")} when they"),
                     *words.beside(selection, "visited.#{name}")]
          end
          told << words.plain("#{"and " if outer.any?}in which they") if doing.any?
          did = doing.each_with_index.flat_map do |one, index|
            [words.plain("and"), *one.parts(words, "visited.doing[#{index}]")]
          end
          [*told, *did.drop(1), words.window(window, "visited")]
        end

        def evidence(evaluator)
          found = visits(evaluator)
          facts = found.tail(Facts::MOST).rows(named: true).reverse.map { |row| { what: told(row), at: row["occurred_at"] } }
          such = ranges.empty? && doing.empty? && outer.empty? ? "visit" : "such visit"
          said = "made #{English.counted(found.height, such)} #{Wording.window(window)}"
          { found: said, asked: count.none? ? "none" : VisitWording.number(count),
            nearness: nearness_of(found.height), facts: facts, more: [found.height - Facts::MOST, 0].max }
        end

        def costly? = true

        private

        # Those that fit, whoever paid them.
        def visits(evaluator)
          found = Visits.listed(rows(evaluator), ends: outer.key?("ended"))
          found = numbered(found) if ranges.key?("number")
          found = doing.reduce(found) { |left, deed| having(left, deed, evaluator) }
          found = outer.reduce(found) { |left, (name, selection)| with_outer(left, name, selection, evaluator) }
          found = found.join(evaluator.first_seen, on: "profile_id", how: "inner") if window.relative?
          found.filter([window.expression(evaluator.as_of, evaluator.calendar), *expressions].reduce(:&))
        end

        # Up to the as-of date; from the window's first day on, where nothing before it has to be known.
        def rows(evaluator)
          day = Polars.col("day")
          inside = day <= Calendar.number(evaluator.as_of)
          first = window.first_day(evaluator.as_of)
          inside &= day >= Calendar.number(first) if first && !ranges.key?("number")
          evaluator.ledger.spine.filter(inside)
        end

        def numbered(visits)
          profile = Polars.col("profile_id")
          visits = visits.with_row_index(name: "row")
          first = Polars.when(profile.ne_missing(profile.shift(1))).then(Polars.col("row")).otherwise(nil).forward_fill
          visits.with_columns([(Polars.col("row") - first + 1).alias("number")])
        end

        def having(visits, deed, evaluator)
          told = deed.visits(evaluator, Window.new).select(Deed::KEY).collect.rename({ "visit_start" => "occurred_at" })
          visits.join(told, on: told.columns, how: deed.nothing_fits? ? "anti" : "semi")
        end

        def with_outer(visits, name, selection, evaluator)
          first = window.first_day(evaluator.as_of)
          where = selection.where
          wanted = { properties: where.properties, beside: where.beside, keep: OUTER.fetch(name) }
          frames = selection.types(evaluator.catalogue).map do |type|
            Visits.outermost(evaluator.ledger, type, first, **wanted)
                  .filter(where.expression(type, evaluator.calendar)).select(Visits::KEY)
          end
          key = name == "began" ? Visits::KEY : Visits::LAST_KEY
          visits.join(Polars.concat(frames), left_on: key, right_on: Visits::KEY, how: "semi")
        end

        def expressions
          ranges.flat_map do |name, ends|
            value = Polars.col(name)
            unit = name == "length" ? SECOND : 1
            ends.map do |key, bound|
              COMPARED.fetch(key).to_proc.call(value, bound * unit)
            end
          end
        end

        def told(row)
          return "single-event visit" if row["events"] == 1

          "visit of #{English.duration(row["length"] / SECOND)}, #{row["events"]} events"
        end

        def nearness_of(found)
          return found.fdiv(count.minimum) if found < count.minimum

          count.maximum && found > count.maximum ? (count.maximum + 1).fdiv(found + 1) : 1.0
        end
      end
    end
  end
end
