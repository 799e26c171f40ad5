# frozen_string_literal: true

module Estrel
  # What has been seen of event types, properties and attributes up to a date: since when, how much, with which values.
  class Survey
    # Days of the small picture of volume, the as-of date being the last.
    DAYS = 30
    # An event type first seen within so many days is fresh.
    FRESH_DAYS = 7
    TOP = 8
    ADDRESS = "^[^@\\s]+@[^@\\s]+\\.[^@\\s]+$"

    # @param generation [Ledger::Generation]
    # @param as_of [Date]
    def initialize(generation, as_of)
      @generation = generation
      @as_of = as_of
      @last = Calendar.number(as_of)
    end

    # @return [Hash{String => Hash}] per event type `count`, `first_day` and `last_day` (Date, nil where there are no
    #   events), `volume` (one count per day of {DAYS}), `fresh`
    def event_types
      @generation.cache.fetch([:survey, @as_of]) do
        @generation.catalogue.event_types.keys.to_h { |name| [name, event_type(name)] }
      end
    end

    # @return [Hash{String => Integer}] per event type how many people ever had such events
    def people = @generation.catalogue.event_types.keys.to_h { |name| [name, @generation.people_of(name)] }

    # @param type [String] an event type
    # @return [Hash{String => Hash}] per property `share` of events that carry it; `count`, `first_day`, `last_day` and
    #   `volume` of those; `top` values with counts and an `example`, both from the last {DAYS} days or, where there was
    #   nothing, from always
    def properties(type)
      @generation.cache.fetch([:survey, @as_of, type]) do
        events = until_now(type)
        recent = events.filter(Polars.col("day") > @last - DAYS)
        recent = events if recent.height.zero?
        @generation.catalogue.event_types.fetch(type).properties.to_h do |name, field|
          column = Ledger::Layout.property(name)
          carrying = seen_on(events.lazy.filter(Polars.col(column).is_not_null))
          [name, { share: share(events[column]), **carrying, **values(recent[column], field.type) }]
        end
      end
    end

    # @return [Hash{String => Hash}] per attribute `share` of people who have a value; `count`, `first_day`, `last_day`
    #   and `volume` of the values recorded; `top` values and an `example`
    def attributes
      @generation.cache.fetch([:survey_of_attributes, @as_of]) do
        @generation.catalogue.attributes.to_h do |name, field|
          known = AttributeValues.new(@generation).at(@as_of, name, field.type).filter(seen)["value"]
          [name, { share: share(known), **seen_on(recorded(name)), **values(known, field.type) }]
        end
      end
    end

    # @return [Integer] customer IDs that look like e-mail addresses, which they are not: nobody is reachable by them
    def customer_ids_like_addresses
      column = Ledger::Layout.identifier("customer")
      return 0 unless @generation.profiles.columns.include?(column)

      @generation.profiles.select([Polars.col(column).str.contains(ADDRESS).sum]).item || 0
    end

    private

    def until_now(type) = @generation.events(type).filter(Polars.col("day") <= @last)

    def event_type(name)
      seen = seen_on(@generation.scan(name).filter(Polars.col("day") <= @last))
      { **seen, fresh: !seen[:first_day].nil? && Calendar.number(seen[:first_day]) > @last - FRESH_DAYS }
    end

    # How many rows there are, from when to when, and on each of the last days.
    def seen_on(rows)
      counts = rows.group_by("day").agg([Polars.len.alias("n")]).collect.rows.to_h
      first, last = counts.keys.minmax
      { count: counts.values.sum, first_day: first && Calendar.date(first), last_day: last && Calendar.date(last),
        volume: ((@last - DAYS + 1)..@last).map { |day| counts.fetch(day, 0) } }
    end

    def seen
      @generation.profiles.select([(Polars.col("first_seen_day") <= @last).alias("seen")])["seen"]
    end

    def recorded(name)
      after = @generation.calendar.end_of(@as_of)
      @generation.attribute_history.lazy.filter((Polars.col("attribute") == name) & (Polars.col("occurred_at") < after))
                 .select([@generation.calendar.day_numbers(Polars.col("occurred_at")).alias("day")])
    end

    def share(column) = column.len.zero? ? 0.0 : (column.len - column.null_count).fdiv(column.len)

    def values(column, type)
      given = column.drop_nulls.alias("value")
      return { top: [], example: nil } if given.len.zero?

      counted = (type == "list" ? given.explode.drop_nulls : given).to_frame
                .group_by("value").agg([Polars.len.alias("count")])
      top = counted.sort(%w[count value], reverse: [true, false]).head(TOP).rows(named: true)
      { top: top.map do |row|
        { value: text(row["value"], type), count: row["count"] }
      end, example: text(given[-1], type) }
    end

    def text(value, type)
      case type
      when "date" then Calendar.date(value).iso8601
      when "time" then Time.at(0, value, :usec).utc.iso8601
      when "number" then (value % 1).zero? ? value.to_i.to_s : value.to_s
      else value.is_a?(Array) || value.is_a?(Polars::Series) ? value.to_a.join(", ") : value.to_s
      end
    end
  end
end
