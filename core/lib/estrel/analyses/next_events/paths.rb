# frozen_string_literal: true

module Estrel
  module Analyses
    class NextEvents
      # Follows the events of a part from instant to instant. All that a person did at one instant is a *moment*; the
      # next moment of the same person is the next number, so nothing is sorted or joined by more than one number. Where
      # only some event types are looked at, what comes next is the nearest moment at which one of them was done.
      #
      # Each event that is followed is an anchor of its own, also where several lie at one instant.
      #
      # A way through event types is one number: that of the way before, times {#base}, plus the number of the type.
      class Paths
        COLUMNS = %w[profile_id occurred_at day type visit_start].freeze
        # Where a way has come to that began at an anchor.
        REACHED = %w[anchor moment way wait visit_start].freeze
        private_constant :COLUMNS, :REACHED

        # @param analysis [NextEvents]
        # @param part [Audience::Evaluator]
        def initialize(analysis, part)
          @analysis = analysis
          @part = part
          @days = [analysis.from, analysis.to].map { |date| Calendar.number(date) }
          @read = [analysis.before? ? first_read : @days.first, @days.last]
        end

        # @param catalogue [Catalogue]
        # @return [Integer] greater than the number of every event type
        def self.base(catalogue) = (catalogue.event_types.each_value.map(&:id).max || 0) + 1

        # @param audiences [Array<Stored::NamedAudience>]
        # @return [Hash{Symbol => Object}] for {Sum}: `times` and `people` by way, 0 being where all begin; `went_on`,
        #   how often something came next; of each audience `times` and `people` likewise
        def found(audiences)
          prepare
          masks = audiences.map { |audience| members(audience.definition) }
          gone = {}
          levels = walk { |following| gone.update(went_on(following)) }
          waits(levels)
          counted(levels, nil).merge(went_on: gone, audiences: masks.map { |mask| counted(levels.first(2), mask) })
        end

        # @param ways [Array<Integer>]
        # @return [Polars::DataFrame] how long the last step of each took, by its place in the list, see {Waits.placed}
        def placed(ways)
          codes = Polars::DataFrame.new({ "way" => ways, "code" => (0...ways.size).to_a },
                                        schema_overrides: { "way" => Polars::Int64, "code" => Polars::Int32 })
          Waits.placed(waits.join(codes, on: "way", how: "inner"))
        end

        private

        # The day before which nothing can lie that is looked back at.
        def first_read
          if @analysis.within
            return @days.first - (@analysis.depth * @analysis.within.fdiv(86_400 * Calendar::MICROS).ceil) - 1
          end

          first = @part.ledger.spine.lazy.filter(Polars.col("day").is_between(*@days))
                       .select([Polars.col("visit_start").min]).collect["visit_start"][0]
          [@days.first, *(Calendar.number(@part.calendar.day_of(first)) if first)].min
        end

        # What is reached from the anchors, step by step.
        def walk
          (1..@analysis.depth).each_with_object([anchors]) do |_, levels|
            following = following(levels.last)
            yield(following) if block_given?
            levels << following.select(REACHED)
          end
        end

        # How long the last step of each way took; remembered, being asked for again.
        def waits(levels = nil)
          @part.remembered([:waits, @analysis.asked]) do
            prepare unless levels
            Polars.concat((levels || walk).drop(1).map { |level| level.select(%w[way wait]) })
          end
        end

        def prepare
          among = @analysis.among
          inside = Polars.col("day").is_between(*@read)
          inside &= of_types([*among, *@analysis.selection.types(@part.catalogue)]) if among
          rows = @part.ledger.spine.lazy.filter(inside).select(COLUMNS).collect
          profile, at = %w[profile_id occurred_at].map { |name| Polars.col(name) }
          fresh = ((profile != profile.shift(1)) | (at != at.shift(1))).fill_null(true)
          @rows = rows.with_columns([(fresh.cast(Polars::Int64).cum_sum - 1).alias("moment")])
          moments = @rows.filter(fresh)
          @profiles = moments["profile_id"]
          @instants = moments["occurred_at"]
          # Events of one type at one instant are one step; they lie next to each other.
          steps = @rows.filter(fresh | (Polars.col("type") != Polars.col("type").shift(1)))
          @steps = (among ? steps.filter(of_types(among)) : steps).select(%w[moment type visit_start])
        end

        # Comparing with each of a few is faster than looking up in a list.
        def of_types(types) = types.map(&:id).uniq.map { |id| Polars.col("type") == id }.reduce(:|)

        # The events that are followed.
        def anchors
          found = @analysis.selection.types(@part.catalogue).map { |type| places(type) }
          rows = @rows.select([Polars.all.gather(Polars.concat(found).sort)])
          rows = rows.filter(Polars.col("day") >= @days.first) if @analysis.before?
          rows = rows.filter(Polars.col("profile_id").is_in(members(@analysis.who))) if @analysis.who
          none = %w[way wait].map { |name| Polars.lit(0).cast(Polars::Int64).alias(name) }
          rows.with_columns(none).with_row_index(name: "anchor").select(REACHED)
        end

        # Of the events of a type that are meant: a type's rows stand in the spine in the order of its file.
        def places(type)
          all = @rows.select([Polars.arg_where(Polars.col("type") == type.id).alias("place")])["place"]
          where = @analysis.selection.where
          return all if where.empty?

          events = @part.events_beside(type.name, where.beside).lazy.filter(Polars.col("day").is_between(*@read))
          all.filter(events.select([where.expression(type, @part.calendar).alias("fits")]).collect["fits"])
        end

        # What lies in the moment next to each, as far as it may be.
        def following(reached)
          rows = with_steps(neighbours(reached))
          way = ((Polars.col("before") * base) + Polars.col("type")).alias("way")
          rows.with_columns([way]).filter(may_follow)
        end

        # The next moment of the same person, of each.
        def neighbours(reached)
          moment = Polars.col("moment")
          next_to = moment + (@analysis.before? ? -1 : 1)
          asked = reached.select([Polars.col("anchor"), moment.alias("from"), next_to.alias("moment"),
                                  Polars.col("way").alias("before"), Polars.col("visit_start").alias("visit")])
          asked = nearest(asked) if @analysis.among
          asked = asked.filter(moment.is_between(0, @profiles.len - 1))
          now, from = %w[moment from].map { |name| at(@instants, asked[name]) }
          own = at(@profiles, asked["moment"]) == at(@profiles, asked["from"])
          columns = { "own" => own, "wait" => (now - from).abs, "from_at" => from, "at" => now }
          asked.with_columns(columns.map { |name, column| column.alias(name) }).filter(Polars.col("own"))
        end

        # One row for each event type at the moment of each; moments are sorted, so their steps are looked up by
        # halving. `asked` numbers the rows they come from.
        def with_steps(asked)
          rows = asked.with_columns([steps_at("left").alias("step"), steps_at("right").alias("after")])
          rows = rows.with_columns([(Polars.col("after") - Polars.col("step")).alias("size")])
                     .filter(Polars.col("size") >= 1).with_row_index(name: "asked")
          rows = repeated(rows) if (rows["size"].max || 1) > 1
          rows.with_columns(%w[type visit_start].map { |name| at(@steps[name], rows["step"]).alias(name) })
        end

        # As many rows of each as it has steps, one for each of them.
        def repeated(rows)
          size = Polars.col("size")
          first = rows.select([(size.cum_sum - size).alias("first")])["first"]
          asked = rows.select([Polars.col("asked").repeat_by("size")]).explode("asked")["asked"]
          place = Polars.int_range(0, asked.len, eager: true) - at(first, asked)
          rows.select([Polars.all.gather(Polars.lit(asked))])
              .with_columns([(Polars.col("step") + Polars.lit(place)).alias("step")])
        end

        def steps_at(side)
          Polars.lit(@steps["moment"]).search_sorted(Polars.col("moment"), side: side).cast(Polars::Int64)
        end

        # The moment at or beyond each at which something was done that is looked at.
        def nearest(asked)
          there = @steps.select([Polars.col("moment").alias("found")]).unique.sort("found")
          asked.sort("moment").join_asof(there, left_on: "moment", right_on: "found",
                                                strategy: @analysis.before? ? "backward" : "forward")
               .filter(Polars.col("found").is_not_null).drop("moment").rename({ "found" => "moment" })
        end

        def base = @base ||= Paths.base(@part.catalogue)

        def at(series, numbers)
          places = Polars.lit(numbers.cast(Polars::UInt32))
          series.alias("value").to_frame.select([Polars.col("value").gather(places)])["value"]
        end

        # As an order's link has it: the later of the two lies in a visit that had begun by the earlier one.
        def may_follow
          return Polars.col("wait") <= @analysis.within if @analysis.within

          begun, earlier = @analysis.before? ? %w[visit at] : %w[visit_start from_at]
          both = %w[visit visit_start].map { |name| Polars.col(name).is_not_null }.reduce(:&)
          both & (Polars.col(earlier) >= Polars.col(begun))
        end

        # How often something came next, by the way before. Rows that come from one lie next to each other.
        def went_on(following)
          asked = Polars.col("asked")
          once = following.filter((asked != asked.shift(1)).fill_null(true))
          Lifecycle::Tally.of(once, Polars.col("before"))
        end

        def members(definition)
          @part.ids.filter(@part.mask(definition.root) & @part.seen(@part.as_of)).cast(Polars::UInt32)
        end

        def counted(levels, ids)
          told = levels.map do |level|
            rows = level.select(%w[moment way]).with_columns([at(@profiles, level["moment"]).alias("profile_id")])
            ids ? rows.filter(Polars.col("profile_id").is_in(ids)) : rows
          end
          way = Polars.col("way")
          { times: told.map { |rows| Lifecycle::Tally.of(rows, way) }.reduce(:merge),
            people: told.map { |rows| Lifecycle::Tally.of(rows.select(%w[profile_id way]).unique, way) }.reduce(:merge) }
        end
      end
    end
  end
end
