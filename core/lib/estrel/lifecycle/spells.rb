# frozen_string_literal: true

module Estrel
  class Lifecycle
    # A profile's activity days, and the *spells* they fall into: runs whose neighbours lie at most `active_within` days
    # apart, so the person never went dormant inside one.
    #
    # Where activity days are keys, these are the profile times {Ledger::Layout::KEY_STEP} plus the day number.
    class Spells
      DAY = Ledger::Layout::KEY_STEP
      # A day after every other, where a spell has no successor.
      NEVER = DAY - 1
      # Keys of one profile differ by less, those of two by more.
      APART = DAY / 2
      ROW = %w[profile_id day occurred_at received_day].freeze
      DEVICE_DAY = %w[profile_id device day].freeze
      private_constant :ROW, :DEVICE_DAY

      # @param ledger [Ledger::Readable]
      # @param rule_set [RuleSet]
      def initialize(ledger, rule_set)
        @ledger = ledger
        @rule_set = rule_set
      end

      # Event types of which every event counts are read together, in the order they stand in. The spells of each
      # conditional sign of life are found by themselves and then joined where they touch: there are far fewer of them
      # than of days.
      #
      # @return [Polars::DataFrame] one row per spell, by profile and time: profile_id, start, last, next_start ({NEVER}
      #   for the latest), first_day (of the profile)
      def all
        @ledger.cache.fetch([:spells, @rule_set.activity_key, @rule_set.active_within]) do
          of(rows)
        end
      end

      # The spells that decide the states from a day on; what lies before need not be right.
      #
      # @param day [Integer]
      # @param last [Integer, nil] activity after this day is left out
      # @return [Polars::DataFrame] as {#all}
      def since(day, last = nil) = of(rows.map { |frame| recent(frame, day, last) })

      # @return [Polars::DataFrame] the sorted column `key` of all activity days; a day may stand once for all event
      #   types of which every event counts, and once for each conditional sign of life
      def keys
        @ledger.cache.fetch([:activity_keys, @rule_set.activity_key]) do
          Spells.together(rows.map { |frame| Ledger::Layout.days(frame) })
        end
      end

      # @return [Polars::DataFrame] `profile_id`, `device` and `day` (number) of the days a person's activity came from
      #   each device; a day may stand more than once
      def device_days
        @ledger.cache.fetch([:device_days, @rule_set.activity_key]) do
          none = Polars::DataFrame.new(DEVICE_DAY.to_h { |name| [name, []] },
                                       schema_overrides: Ledger::Layout::EVENT_COLUMNS.slice(*DEVICE_DAY))
          Polars.concat([*signs.map { |type, where| days_on_devices(type, where) }, none])
        end
      end

      # All activity in order, in as few frames as there can be; one without a row where nothing counts, as when all
      # event types of the rule set are marked as no activity. A day may stand repeatedly.
      #
      # @param columns [Array<String>] some of `profile_id`, `day`, `occurred_at` and `received_day`
      # @return [Array<Polars::DataFrame>]
      def rows(columns = %w[profile_id day])
        plain, others = signs.partition { |_, where| where.nil? }
        found = others.map { |type, where| conditional(type, where).select(columns) }
        found.unshift(unconditional(plain.map(&:first), columns)) if plain.any? || others.empty?
        found
      end

      # @param frames [Array<Polars::DataFrame>] sorted keys
      # @return [Polars::DataFrame] all keys, sorted
      def self.together(frames)
        return Polars::DataFrame.new({ "key" => [] }, schema: { "key" => Polars::Int64 }) if frames.empty?

        frames.one? ? frames.first : Polars.concat(frames).sort("key")
      end

      private

      def unconditional(types, columns)
        ids = types.map(&:id).sort
        of_type = ids.map { |id| Polars.col("type") == id }.reduce(:|) || Polars.lit(false)
        @ledger.spine.lazy.filter(of_type).select(columns).collect
      end

      def conditional(type, where)
        @ledger.cache.fetch([:days_of, type.name, where.to_h]) do
          events = @ledger.events_beside(type.name, %w[received_day])
          events.filter(where.expression(type, @ledger.calendar)).select(ROW)
        end
      end

      def of(frames)
        runs = frames.map { |rows| runs(rows) }
        with_neighbours(runs.one? ? runs.first : joined(runs))
      end

      # One comparison with the row before finds where spells begin; they end before the next begins.
      def runs(rows)
        profile, day, begins = %w[profile_id day begins].map { |name| Polars.col(name) }
        apart = (profile != profile.shift(1)) | ((day - day.shift(1)) > @rule_set.active_within)
        marked = rows.select([apart.fill_null(true).alias("begins")])
        ends = rows.filter(marked.select([begins.shift(-1).fill_null(true)])["begins"])
        rows.filter(marked["begins"])
            .select([profile.cast(Polars::Int64), day.cast(Polars::Int32).alias("start"),
                     ends["day"].cast(Polars::Int32).alias("last")])
      end

      # Runs of several kinds as runs of all: one begins where no earlier one of the profile reaches so near. The latest
      # day reached so far is a running maximum of a number that rises with the profile.
      def joined(runs)
        marked = with_reach(runs)
        ends = marked.select([Polars.col("begins").shift(-1).fill_null(true).alias("ends")])["ends"]
        last = marked.filter(ends)["reached"]
        start = Polars.col("start_key")
        marked.filter(Polars.col("begins"))
              .select([start.floordiv(DAY).alias("profile_id"), (start % DAY).cast(Polars::Int32).alias("start"),
                       (last % DAY).cast(Polars::Int32).alias("last")])
      end

      def with_reach(runs)
        start, last, profile = %w[start last profile_id].map { |name| Polars.col(name) }
        keys = [((profile * DAY) + start).alias("start_key"), ((profile * DAY) + last).alias("last_key")]
        reached = Polars.col("last_key").cum_max
        begins = ((Polars.col("start_key") - reached.shift(1)) > @rule_set.active_within).fill_null(true)
        Polars.concat(runs.map { |frame| frame.select(keys) }).sort("start_key")
              .with_columns([reached.alias("reached"), begins.alias("begins")])
      end

      def with_neighbours(spells)
        profile = Polars.col("profile_id")
        start = Polars.col("start")
        following = Polars.when(profile == profile.shift(-1)).then(start.shift(-1)).otherwise(NEVER)
        opening = Polars.when(profile.ne_missing(profile.shift(1))).then(start).otherwise(nil)
        spells.with_columns([following.fill_null(NEVER).cast(Polars::Int32).alias("next_start"),
                             opening.forward_fill.alias("first_day")])
      end

      # The first activity of every profile, the last one before the day, and all later ones: far fewer than all.
      def recent(rows, day, last)
        profile, recent, other = %w[profile_id recent other].map { |name| Polars.col(name) }
        rows = rows.filter(Polars.col("day") <= last) if last
        marked = rows.select([(Polars.col("day") >= day).alias("recent"),
                              (profile != profile.shift(1)).fill_null(true).alias("other")])
        kept = recent | other | recent.shift(-1).fill_null(true) | other.shift(-1).fill_null(true)
        rows.filter(marked.select([kept.alias("kept")])["kept"])
      end

      def signs = @rule_set.activity_in(@ledger.catalogue)

      # Most of what a person does on a day follows something done on the same device that day.
      def days_on_devices(type, where)
        own = DEVICE_DAY.map { |name| Polars.col(name) }
        counts = Polars.col("device").is_not_null
        counts &= where.expression(type, @ledger.calendar) if where
        rows = @ledger.events(type.name).lazy.filter(counts).select(own)
        rows.filter(own.map { |column| column.ne_missing(column.shift(1)) }.reduce(:|)).collect
      end
    end
  end
end
