# frozen_string_literal: true

module Estrel
  module Analyses
    # Into which groups events are told apart: by audiences their people are in, by what people are told apart by, by a
    # property of the events themselves, or by both of these at once; or all are in one. The most frequent values have
    # groups of their own; which they are has to be found out from all parts first.
    class EventGroups
      # How many values are told apart unless another number is asked for.
      TOP = 5

      # @param audiences [Array<Stored::NamedAudience>]
      # @param split [Audience::Split, Audience::PairedSplit, Audience::EventSplit, nil]
      # @param top [Integer, nil]
      # @param people [Audience::Split, nil] by which people are told apart besides, where events are
      def initialize(audiences, split, top, people: nil)
        @audiences = audiences
        @split = split
        @top = top || TOP
        @people = people
      end

      # @return [Boolean] whether values have to be counted first
      def counted_first? = !@split.nil?

      # @return [Audience::EventSplit, nil] whose text has to stand beside the events
      def beside = (@split if of_events? && !at_a_time?)

      # @return [Boolean] whether all events of a person are in one group
      def personal? = !of_events?

      # @return [Boolean] whether all that a person does at a time is in one group
      def at_a_time? = of_events? && @split.of_people?

      # How often each value occurs.
      #
      # @param rows [Polars::DataFrame] `profile_id`, and `told` where something has to stand {#beside}; where it is
      #   {#at_a_time?}, `occurred_at`
      # @param part [Audience::Evaluator]
      # @param people [Boolean] whether people are counted rather than events
      # @param weight [String, nil] column of whole numbers. A row counts as its number and one more: a value whose rows
      #   all have 0 is a value that occurs, and must not look like one that nobody has any longer
      # @return [Hash{String, nil => Integer}]
      def counts(rows, part, people:, weight: nil)
        number = (weight ? Polars.col(weight).sum + Polars.len : Polars.len).cast(Polars::Int64).alias("n")
        unless of_events?
          return of_people(rows, part, people ? Polars.lit(1).cast(Polars::Int64).alias("n") : number)
        end
        return coded_counts(rows, part, people, number) if at_a_time?

        rows = crossed(rows, part)
        rows = rows.select(%w[profile_id told]).unique if people
        rows.group_by("told").agg([number]).rows.to_h
      end

      # @return [Array<String>, nil] of values that are all told, in an order of their own
      def order = @split.order

      # One other value stands by itself.
      #
      # @param counts [Hash] see {#counts}, of all parts; or other numbers, of which the greatest come first
      # @return [Array<Array>] see {Lifecycle::Grouping.labels}
      def labels(counts)
        return Lifecycle::Grouping.in_order(counts, order) if order

        Lifecycle::Grouping.labels(counts, counts.except(nil).size == @top + 1 ? @top + 1 : @top)
      end

      # @param rows [Polars::DataFrame] `profile_id`, and `told` where events are told apart
      # @param part [Audience::Evaluator]
      # @param labels [Array<Array>, nil] where values were counted
      # @return [Array<Polars::DataFrame>] the rows that are in one, with the number of their `group`; somebody who is
      #   in several audiences is in several of these, each of which is sorted as the rows were
      def of(rows, part, labels)
        return by_audience(rows, part) if @audiences.any? && @split.nil?
        return [in_group(rows, 0)] unless @split
        return [by_code(rows, part, labels)] if at_a_time?
        return [by_text(crossed(rows, part), labels)] if of_events?

        [part.groups(@split, labels).spread(rows)]
      end

      # @param labels [Array<Array>, nil]
      # @return [Array<Hash{Symbol => Object}>] of every group: `id` of the audience, `kind`, `value`, `people_in`, the
      #   condition that finds its people, and `where`, the filters that find its events; `people_in` is nil where both
      #   depend on each other, and `pairs` says which filters go with which people
      def named(labels)
        return labels.map { |kind, value| of_value(kind, value&.to_s, labels) } if @split
        return [group("all", nil, nil)] if @audiences.empty?

        @audiences.map do |audience|
          group("audience", audience.name, { "audience" => { "id" => audience.id } }, id: audience.id)
        end
      end

      # @param group [Hash{Symbol => Object}] of {#named}
      # @return [String]
      def said(group)
        case group[:kind]
        when "all" then "all people"
        when "other" then English.counted(group[:value].to_i, "other value")
        when "not_set" then "not set"
        when "audience" then group[:value]
        else @people ? said_pair(group[:value]) : @split.said(group[:value])
        end
      end

      private

      def of_events? = @split.is_a?(Audience::EventSplit)

      # What people were at each row, and what they are besides.
      def coded(rows, part)
        told = @split.at(rows, part.ledger)
        return told unless @people

        texts, codes = Audience::Coded.numbers(part.values_of(@people))
        own = Polars::DataFrame.new([part.ids.cast(rows["profile_id"].dtype).alias("profile_id"), codes.alias("own")])
        own = rows.select("profile_id").join(own, on: "profile_id", how: "left")["own"]
        told.beside(Audience::Coded.new(own, texts))
      end

      def coded_counts(rows, part, people, number)
        told = coded(rows, part)
        rows = rows.with_columns([told.codes])
        found = people ? people_by_code(rows, told.width) : rows.group_by("told").agg([number]).rows
        found.to_h { |code, n| [told.text(code), n] }
      end

      def people_by_code(rows, width)
        number = (Polars.col("profile_id").cast(Polars::Int64) * width) + Polars.col("told")
        Lifecycle::Tally.of(Lifecycle::Tally.different(rows, number), Polars.col("number") % width)
      end

      def by_code(rows, part, labels)
        told = coded(rows, part)
        codes = told.codes.unique
        texts = Polars::Series.new("value", codes.to_a.map { |code| told.text(code) }, dtype: Polars::String)
        groups = Polars::DataFrame.new([codes, Lifecycle::Grouping.numbers(texts, labels)])
        grouped(rows.with_columns([told.codes]).join(groups, on: "told", how: "left"))
      end

      # What had no such value where values were counted, as in the days before, is in no group.
      def grouped(rows) = rows["group"].null_count.zero? ? rows : rows.filter(Polars.col("group").is_not_null)

      # Two values as one, that of the event and that of the person.
      def crossed(rows, part)
        return rows unless @people

        ids = part.ids.cast(rows["profile_id"].dtype).alias("profile_id")
        each = Polars::DataFrame.new([ids, part.values_of(@people).alias("own")])
        pair = Audience::Pair.of(Polars.col("told"), Polars.col("own"))
        rows.join(each, on: "profile_id", how: "left").with_columns([pair.alias("told")]).drop("own")
      end

      def said_pair(value)
        Audience::Pair.taken_apart(value).zip([@split, @people])
                      .map { |part, split| part.nil? ? "not set" : split.said(part) }.join(", ")
      end

      def in_group(rows, number) = rows.with_columns([Polars.lit(number).cast(Polars::Int32).alias("group")])

      def by_audience(rows, part)
        @audiences.each_with_index.map do |audience, index|
          in_group(part.group(audience.definition, audience.id).spread(rows), index)
        end
      end

      # Person by person, since all events of one have the same value.
      def of_people(rows, part, number)
        each = rows.lazy.group_by("profile_id").agg([number])
        told = Polars::DataFrame.new([part.ids.alias("profile_id"), part.values_of(@split).alias("told")])
        each.join(told.lazy, on: "profile_id", how: "left").group_by("told").agg([Polars.col("n").sum])
            .collect.rows.to_h
      end

      def by_text(rows, labels)
        grouped(rows.with_columns([Lifecycle::Grouping.numbers(rows["told"], labels)]))
      end

      def of_value(kind, value, labels)
        return of_pair(kind, value, labels) if @people

        named = labels.filter_map { |one, name| name if one == :value }
        return group(kind.to_s, value, nil, where: @split.filters(kind, value, named)) if of_events?

        group(kind.to_s, value, @split.group(kind, value, named)[:people_in])
      end

      def of_pair(kind, value, labels)
        return { **group(kind.to_s, value, nil), people_in: nil, pairs: other_pairs(labels) } unless kind == :value

        told, own = Audience::Pair.taken_apart(value)
        group("value", value, @people.condition(own), where: @split.filters(told ? :value : :not_set, told, []))
      end

      # Of people with a value that has pairs, what is told otherwise; and all that others do.
      def other_pairs(labels)
        named = labels.filter_map { |kind, value| Audience::Pair.taken_apart(value) if kind == :value }
        by_people = named.group_by(&:last).transform_values { |pairs| pairs.map(&:first) }
        rest = by_people.keys.map { |own| { "not" => @people.condition(own) } }
        [*by_people.map { |own, told| [@people.condition(own), told_otherwise(told)] }, [{ "all" => rest }, []]]
      end

      def told_otherwise(told)
        set, *others = @split.filters(:other, nil, told.compact)
        told.include?(nil) ? [set, *others] : others
      end

      def group(kind, value, people_in, id: nil, where: [])
        { id: id, kind: kind, value: value, people_in: people_in || { "all" => [] }, where: where }
      end
    end
  end
end
