# frozen_string_literal: true

module Estrel
  # The value each profile's attribute had at the end of a date: the newest by occurrence, however late it arrived.
  class AttributeValues
    # @param generation [Ledger::Generation]
    def initialize(generation)
      @generation = generation
    end

    # @param date [Date]
    # @param name [String] of an attribute in the catalogue
    # @param type [String] its type
    # @return [Polars::DataFrame] one row per profile, in the ledger's order, with the typed column `value`
    def at(date, name, type)
      after = @generation.calendar.end_of(date)
      standing = newest_change(name) < after ? @generation.current_attribute(name) : nil
      return standing.alias("value").to_frame if standing

      latest = history(name).filter(Polars.col("occurred_at") < after)
                            .group_by("profile_id", maintain_order: true).agg([Polars.col("value").last])
      @generation.profiles.select(["profile_id"]).join(latest, on: "profile_id", how: "left")
                 .select([Ledger::Layout.typed(Polars.col("value"), type).alias("value")])
    end

    # Every value with the one before it.
    #
    # @param date [Date]
    # @param name [String] of an attribute in the catalogue
    # @param type [String] its type
    # @return [Polars::DataFrame] `profile_id`, `occurred_at`, `day`, the typed `value` and `before`, and both as `text`
    #   and `text_before`; one row for every value up to the date's end
    def steps(date, name, type)
      profile = Polars.col("profile_id")
      before = Polars.when(profile == profile.shift(1)).then(Polars.col("value").shift(1)).otherwise(nil)
      rows = history(name).with_columns([before.alias("text_before")])
                          .filter(Polars.col("occurred_at") < @generation.calendar.end_of(date))
      typed = ->(column, as) { Ledger::Layout.typed(Polars.col(column), type).alias(as) }
      rows.select([profile, Polars.col("occurred_at"),
                   @generation.calendar.counted_days(Polars.col("occurred_at")).alias("day"),
                   Polars.col("value").alias("text"), Polars.col("text_before"), typed.call("value", "value"),
                   typed.call("text_before", "before")])
    end

    # @param date [Date]
    # @param name [String] of an attribute in the catalogue
    # @param type [String] its type
    # @return [Polars::DataFrame] `profile_id` and the typed `value`, one row for every value up to the date's end
    def until(date, name, type)
      history(name).filter(Polars.col("occurred_at") < @generation.calendar.end_of(date))
                   .select([Polars.col("profile_id"), Ledger::Layout.typed(Polars.col("value"), type).alias("value")])
    end

    # @param name [String] of an attribute in the catalogue
    # @return [Date, nil] the day of the oldest value there is of anybody
    def begins(name)
      oldest = @generation.cache.fetch([:oldest_change, name]) { history(name)["occurred_at"].min }
      oldest && @generation.calendar.day_of(oldest)
    end

    # @param name [String] of an attribute in the catalogue
    # @return [Polars::DataFrame] the rows of the ledger's history that are about it, see {Ledger::Layout}
    def history(name)
      @generation.cache.fetch([:attribute_history, name]) do
        @generation.attribute_history.filter(Polars.col("attribute") == name)
      end
    end

    private

    def newest_change(name) = @generation.cache.fetch([:newest_change, name]) { history(name)["occurred_at"].max || 0 }
  end
end
