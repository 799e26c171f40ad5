# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Into which groups people are told apart: everybody as one, the members of an audience, or one group per value.
    class Grouping
      # Stands for no group.
      NONE = -1
      private_constant :NONE

      # @return [Array<Object>] what each group is, as given
      attr_reader :labels
      # @return [Array<Integer>] people in each group
      attr_reader :sizes
      # @return [Object] names the groups completely
      attr_reader :key

      # Everybody as one group.
      #
      # @param ledger [Ledger::Readable]
      # @return [Grouping]
      def self.everybody(ledger) = new(ledger, ["all people"], nil, key: :everybody)

      # The members of an audience as one group; everybody else is left out.
      #
      # @param ledger [Ledger::Readable]
      # @param mask [Polars::Series] booleans over the ledger's profiles
      # @param label [Object]
      # @param key [Object] names them completely, for remembering what is computed of them
      # @return [Grouping]
      def self.members(ledger, mask, label, key:)
        code = mask.alias("in").to_frame
                   .select([Polars.when(Polars.col("in")).then(0).otherwise(nil).cast(Polars::Int32).alias("group")])
        new(ledger, [label], code["group"], key: [:members, key])
      end

      # How the values of a split are told apart: the most frequent ones each, then all others, then who has none.
      #
      # @param counts [Hash{String, nil => Integer}] people per value, of the whole ledger
      # @param top [Integer] how many values have groups of their own
      # @return [Array<Array>] `[:value, text]`, `[:other, number of values]` and `[:not_set]`
      def self.labels(counts, top)
        names = counts.keys.compact.sort_by { |value| [-counts[value], value] }
        others = names.size - top
        [*names.first(top).map { |name| [:value, name] }, *([[:other, others]] if others.positive?),
         *([[:not_set]] if counts.key?(nil))]
      end

      # Values that are all told, in an order of their own.
      #
      # @param counts [Hash{String, nil => Integer}] as in {labels}
      # @param order [Array<String>]
      # @return [Array<Array>] likewise
      def self.in_order(counts, order)
        told = order.select { |value| counts.key?(value) }.map { |value| [:value, value] }
        counts.key?(nil) ? [*told, [:not_set]] : told
      end

      # One group per label, of the ledger or a part of it.
      #
      # @param ledger [Ledger::Readable]
      # @param values [Polars::Series] text over the ledger's profiles, or null
      # @param labels [Array<Array>] of {labels}
      # @param among [Polars::Series, nil] booleans: who is looked at
      # @param key [Object] names the values and who is looked at completely
      # @return [Grouping]
      def self.values(ledger, values, labels, key:, among: nil)
        codes = numbers(values, labels)
        if among
          codes = Polars::DataFrame.new([codes, among.alias("among")])
                                   .select([Polars.when(Polars.col("among")).then(Polars.col("group")).otherwise(nil)
                                                  .alias("group")])["group"]
        end
        new(ledger, labels, codes, key: [:values, labels, key])
      end

      # @param values [Polars::Series] text, or null
      # @param labels [Array<Array>] of {labels}
      # @return [Polars::Series] "group": the number of the label of each value
      def self.numbers(values, labels)
        names = labels.filter_map { |kind, name| name if kind == :value }
        known = Polars::DataFrame.new({ "value" => names, "group" => (0...names.size).to_a },
                                      schema_overrides: { "value" => Polars::String, "group" => Polars::Int32 })
        rest = Polars.when(Polars.col("value").is_null).then(labels.index { |label| label.first == :not_set })
                     .otherwise(labels.index { |label| label.first == :other }).cast(Polars::Int32)
        values.alias("value").to_frame.join(known, on: "value", how: "left")
              .select([Polars.coalesce([Polars.col("group"), rest]).alias("group")])["group"]
      end

      # @param ledger [Ledger::Readable]
      # @param labels [Array<Object>]
      # @param codes [Polars::Series, nil] number of the group of every profile, or null; nil where all are in the first
      # @param key [Object]
      def initialize(ledger, labels, codes, key:)
        @ledger = ledger
        @labels = labels.freeze
        @codes = codes
        @key = key
        counts = codes ? codes.to_a.tally : { 0 => ledger.base_size }
        @sizes = labels.each_index.map { |index| counts.fetch(index, 0) }.freeze
      end

      # @return [Integer] how many groups there are
      def size = labels.size

      # Who had been seen by each of some dates.
      #
      # @param steps [Steps]
      # @return [Array<Array<Integer>>] people per group and date
      def seen(steps)
        found = Array.new(size) { Array.new(steps.size, 0) }
        at = steps.index(Polars.col("first_seen_day")).alias("at")
        spread(@ledger.profiles.select(%w[profile_id first_seen_day]))
          .select([Polars.col("group"), at]).lazy.group_by(%w[group at]).agg([Polars.len.alias("n")]).collect.rows
          .each { |group, index, people| found[group][index] += people if index < steps.size }
        found.map { |counts| counts.each_with_object([]) { |count, sums| sums << ((sums.last || 0) + count) } }
      end

      # @param frame [Polars::DataFrame] with `profile_id`
      # @return [Polars::DataFrame] with the number of each person's group as `group`; without people of none
      def spread(frame)
        return frame.with_columns([Polars.lit(0).cast(Polars::Int32).alias("group")]) unless @codes

        frame.join(lookup, on: "profile_id", how: "left").filter(Polars.col("group").is_not_null)
      end

      # @return [Boolean] whether everybody is in the one group, so that nothing need be looked up
      def whole? = @codes.nil?

      # The same for rows by key, which begins with the profile: where each profile's rows begin is found by halving.
      #
      # @param frame [Polars::DataFrame] with the sorted column `key`
      # @return [Polars::DataFrame] with `group`; without people of none
      def spread_keys(frame)
        return frame.with_columns([Polars.lit(0).cast(Polars::Int32).alias("group")]) unless @codes

        step = Ledger::Layout::KEY_STEP
        starts = Polars.lit((@ledger.profiles["profile_id"] * step).rechunk)
        at = frame.select([Polars.col("key").search_sorted(starts, side: "left").cast(Polars::Int64).alias("at")])["at"]
        rows = Polars::DataFrame.new([at, @codes.alias("code")])
        length = Polars.col("at").shift(-1).fill_null(frame.height) - Polars.col("at")
        codes = rows.with_columns([length.alias("length")]).filter(Polars.col("length") != 0)
                    .select([Polars.col("code").fill_null(NONE).repeat_by("length").alias("group")]).explode("group")
        frame.with_columns([codes["group"].cast(Polars::Int32)]).filter(Polars.col("group") != NONE)
      end

      private

      def lookup
        @lookup ||= @ledger.profiles.select(["profile_id"]).with_columns([@codes.alias("group")])
                           .filter(Polars.col("group").is_not_null)
      end
    end
  end
end
