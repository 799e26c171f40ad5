# frozen_string_literal: true

module EstrelServer
  module Exporting
    # The columns an export can have, and their values for a list of people.
    #
    # `identifier:KIND` and `attribute:NAME` are read from the ledger, the facts are the lifecycle's; attributes have
    # the value they had at the end of the as-of date.
    class Columns
      FACTS = %w[kind state quiet_days first_day last_day].freeze

      # A column that does not exist; the message names the nearest that does.
      class Unknown < Error; end

      # @param generation [Estrel::Ledger::Generation]
      def initialize(generation)
        @generation = generation
      end

      # @return [Array<String>] every column there is
      def available
        identifiers = @generation.profiles.columns.grep(/\Aidentifier:/)
        identifiers + FACTS + @generation.catalogue.attributes.keys.map { |name| Estrel::Ledger::Layout.attribute(name) }
      end

      # @param names [Array<String>]
      # @raise [Unknown]
      def check(names)
        raise Unknown, "choose at least one column" if names.empty?

        names.each do |name|
          next if available.include?(name)

          raise Unknown, "no column \"#{name}\"#{Estrel::Catalogue.suggestion(name, available)}"
        end
      end

      # @param names [Array<String>]
      # @param ids [Polars::Series] profile ids
      # @param question [Question]
      # @return [Polars::DataFrame] one row per id, in the order of ids; days as ISO 8601 text
      def frame(names, ids, question)
        rows = @generation.profiles.select(%w[profile_id kind] + names.grep(/\Aidentifier:/))
        rows = rows.with_columns(names.grep(/\Aattribute:/).map { |name| attribute(name, question.as_of) })
        rows = rows.hstack(facts(question)) if names.intersect?(FACTS - ["kind"])
        ids.to_frame.join(rows, on: "profile_id", how: "left").select(names)
      end

      private

      def attribute(column, as_of)
        field = @generation.catalogue.attributes.fetch(column.delete_prefix("attribute:"))
        values = Estrel::AttributeValues.new(@generation).at(as_of, field.name, field.type)["value"]
        values = values.cast(Polars::Datetime.new("us")) if field.type == "time"
        values.alias(column)
      end

      def facts(question)
        raise Unknown, "state and days need a lifecycle policy with at least one event type" unless question.policy

        states = question.whole.states(question.as_of)
        days = %w[first_day last_day].map { |name| Polars.col(name).cast(Polars::Date).cast(Polars::String).alias(name) }
        states.select([Polars.col("state"), Polars.col("quiet_days"), *days])
      end
    end
  end
end
