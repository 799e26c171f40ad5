# frozen_string_literal: true

module Estrel
  module Exports
    # The columns of what is exported, and their values for a list of people, as of the date of the question.
    class Columns
      ADDRESS = "address"
      # Identifier kinds that are addresses, which can be told as digests.
      ADDRESSES = { "identifier:email" => "email", "identifier:phone" => "phone" }.freeze

      # @param ledger [Ledger::Readable]
      # @return [Array<String>] what a column can take, but for figures
      def self.available(ledger)
        identifiers = ledger.profiles.columns.grep(/\Aidentifier:/)
        identifiers + Column::FACTS + ledger.catalogue.attributes.keys.map { |name| Ledger::Layout.attribute(name) }
      end

      # @param evaluator [Audience::Evaluator]
      # @param columns [Array<Column>]
      # @param channel [String, nil] whose address can be taken
      # @param digests [Boolean] whether addresses are told as SHA-256 of their normal form
      # @param chances [#call] gives the {Propensity::Model} of a kind and a number of days, where chances can be taken
      # @raise [Invalid]
      def initialize(evaluator, columns, channel: nil, digests: false, chances: nil)
        @evaluator = evaluator
        @ledger = evaluator.ledger
        @columns = columns
        @channel = channel
        @digests = digests
        @chances = chances
        check
      end

      # @param people [Polars::DataFrame] `profile_id` and, for its column, `address`
      # @return [Polars::DataFrame] one row per person, in their order, with the columns' names; days and instants as
      #   ISO 8601 text
      def frame(people)
        # Figures are had for the few for less.
        @picked = @ledger.picked(people["profile_id"].unique.sort) if @columns.any?(&:figure?)
        values = @columns.map { |column| value(column, people).alias(column.as) }
        Polars::DataFrame.new(values)
      end

      # @return [Array<Propensity::Model>] by which chances are told
      # @raise [Invalid]
      def models = @columns.select(&:chance?).map { |column| model(column) }.uniq

      private

      def model(column) = (@models ||= {})[[column.of, column.days]] ||= @chances.call(column.of, column.days)

      def check
        raise Invalid, "choose at least one column" if @columns.empty?

        twice = @columns.map(&:as).tally.find { |_, times| times > 1 }
        raise Invalid, "two columns are called \"#{twice.first}\"; rename one" if twice

        @columns.each { |column| column.figure? ? check_figure(column) : check_taken(column) }
      end

      def check_taken(column)
        if column.take == ADDRESS
          return if %w[email sms].include?(@channel)

          raise Invalid, "choose email or SMS as the channel to export addresses"
        end
        available = [*Columns.available(@ledger), *(Column::CHANCE if @chances)]
        unknown = available.include?(column.take) ? nil : Catalogue.suggestion(column.take, available)
        raise Invalid, "there is no column \"#{column.take}\"#{unknown}" if unknown
        return if @evaluator.states? || !Column::STATES.include?(column.take)

        raise Invalid, "lifecycle columns need rules: first choose what counts as activity"
      end

      def check_figure(column)
        types = @ledger.catalogue.event_types
        type = types[column.event] or
          raise Invalid, "there is no event type \"#{column.event}\"#{Catalogue.suggestion(column.event, types.keys)}"
        return unless column.take == "sum"

        field = type.properties[column.property]
        return if field&.type == "number"

        raise Invalid, "there is no property \"#{column.property}\" of #{column.event} that is a number"
      end

      def value(column, people)
        return address(column, people["address"], @channel) if column.take == ADDRESS
        return joined(people, figure(column)) if column.figure?
        return joined(people, chance(model(column))) if column.chance?

        everybody = @ledger.profiles.select(["profile_id"])
        found = joined(people, everybody.with_columns([taken(column.take).alias("value")]))
        ADDRESSES.key?(column.take) ? address(column, found, ADDRESSES.fetch(column.take)) : found
      end

      # Of whoever it is about, to four decimal places.
      def chance(model)
        model.chances(@evaluator).select([Polars.col("profile_id"), Polars.col("chance").round(4).alias("value")])
      end

      def address(column, values, kind)
        return values unless @digests

        told = values.to_a.map { |value| value && Address.digest(kind, value) }
        Polars::Series.new(column.as, told, dtype: Polars::String)
      end

      def joined(people, rows) = people.select(["profile_id"]).join(rows, on: "profile_id", how: "left")["value"]

      # Of everybody.
      def taken(take)
        kind, name = take.split(":", 2)
        case kind
        when "identifier" then @ledger.profiles[take]
        when "attribute" then attribute(@ledger.catalogue.attributes.fetch(name))
        when "profile_type" then @evaluator.profile_types
        when "first_day", "last_day" then date(states[take])
        else states[take]
        end
      end

      def states = @states ||= @evaluator.states(@evaluator.as_of)

      def attribute(field)
        values = AttributeValues.new(@ledger).at(@evaluator.as_of, field.name, field.type)["value"]
        case field.type
        when "time" then values.to_frame.select([instants(Polars.col("value"))])["value"]
        when "date" then date(values)
        when "list" then values.to_frame.select([Polars.col("value").list.join("; ").alias("value")])["value"]
        else values
        end
      end

      def date(days)
        days.alias("value").to_frame.select([Polars.col("value").cast(Polars::Date).cast(Polars::String)])["value"]
      end

      def instants(column)
        column.cast(Polars::Datetime.new("us")).dt.strftime("%Y-%m-%dT%H:%M:%S%.6fZ")
      end

      def figure(column)
        last = Calendar.number(@evaluator.as_of)
        first = column.days ? last - column.days + 1 : 0
        rows = @picked.events(column.event).lazy.filter(Polars.col("day").is_between(first,
                                                                                     last)).group_by("profile_id")
        rows.agg([aggregate(column).alias("value")]).collect
      end

      def aggregate(column)
        at = Polars.col("occurred_at")
        case column.take
        when "first" then instants(at.min)
        when "last" then instants(at.max)
        when "count" then Polars.len.cast(Polars::Int64)
        else Polars.col(Ledger::Layout.property(column.property)).sum
        end
      end
    end
  end
end
