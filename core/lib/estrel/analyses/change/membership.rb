# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # Tells the members of an audience apart from everybody else, as an {Audience::Split} does its values. Frozen.
      class Membership
        SAID = { "in" => "members", "out" => "all others" }.freeze
        private_constant :SAID

        # @param audience [Stored::NamedAudience]
        def initialize(audience)
          @definition = audience.definition
          @id = audience.id
          freeze
        end

        # @return [Object] names it completely
        def key = ["audience", @id, @definition.root.key]

        # @param evaluator [Audience::Evaluator]
        # @return [Polars::Series] "value": text over the profiles
        def values(evaluator)
          told = Polars.when(Polars.col("in")).then(Polars.lit("in")).otherwise(Polars.lit("out"))
          evaluator.mask(@definition.root).alias("in").to_frame.select([told.alias("value")])["value"]
        end

        # @param value [String] of {#values}
        # @return [String]
        def said(value) = SAID.fetch(value)

        # @param value [String]
        # @return [Hash] the condition, as JSON
        def condition(value)
          member = { "audience" => { "id" => @id } }
          value == "in" ? member : { "not" => member }
        end
      end
    end
  end
end
