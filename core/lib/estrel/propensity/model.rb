# frozen_string_literal: true

module Estrel
  module Propensity
    # How likely somebody is to come back, or to lapse, within some days: a discrete-time model (one period of so many
    # days) whose coefficients were learned from what people did up to a day. It carries all it takes, so that whatever
    # was asked with it can be asked again. Frozen.
    class Model
      # @return [String] of {KINDS}
      attr_reader :kind
      # @return [Integer] days
      attr_reader :within
      # @return [Date] the last day whose events it has learned from
      attr_reader :learned_until
      # @return [Hash{String => String}, nil] see {Features.spend}
      attr_reader :spend
      # @return [Float]
      attr_reader :intercept
      # @return [Hash{String => Float}] by {Features::NAMES}
      attr_reader :weights

      # @return [Hash] the JSON Schema of {#to_h}
      def self.schema
        name = { "type" => "string", "maxLength" => 255 }
        weights = Features::NAMES.transform_values { { "type" => "number" } }
        properties = { "of" => { "enum" => KINDS },
                       "within_days" => { "type" => "integer", "minimum" => 1, "maximum" => 365 },
                       "learned_until" => Audience::Schema.reference("Date"),
                       "spend" => Audience::Schema.object({ "event" => name, "property" => name },
                                                          required: %w[event property]),
                       "intercept" => { "type" => "number" },
                       "weights" => Audience::Schema.object(weights, required: weights.keys) }
        Audience::Schema.object(properties, required: properties.keys - ["spend"])
      end

      # @param json [Hash{String => Object}] as {#to_h}
      # @return [Model]
      # @raise [Date::Error]
      def self.from_h(json)
        new(json["of"], json["within_days"], Date.iso8601(json["learned_until"]), json["spend"],
            intercept: json["intercept"], weights: json["weights"])
      end

      def initialize(kind, within, learned_until, spend, intercept:, weights:)
        @kind = kind
        @within = within
        @learned_until = learned_until
        @spend = spend.freeze
        @intercept = intercept.to_f
        @weights = weights.transform_values(&:to_f).freeze
        freeze
      end

      # @return [Polars::Expr] the chance, over rows of {Features#at}
      def chance = Statistics::Logistic.probability({ intercept: intercept, weights: weights })

      # @param evaluator [Audience::Evaluator]
      # @return [Polars::DataFrame] of everybody whom it is about at the as-of date: `profile_id` and `chance`
      def chances(evaluator)
        evaluator.remembered([:chances, to_h, evaluator.rule_set&.key]) do
          Features.new(evaluator, within, spend).at(kind, evaluator.as_of)
                  .select([Polars.col("profile_id"), chance.alias("chance")])
        end
      end

      # @return [String] "be reactivated within 30 days"
      def what = "#{kind == "lapse" ? "lapse" : "be reactivated"} within #{English.counted(within, "day")}"

      # @return [String] "reactivation"
      def outcome = kind == "lapse" ? "lapse" : "reactivation"

      # @return [Hash{String => Object}] plain JSON
      def to_h
        { "of" => kind, "within_days" => within, "learned_until" => learned_until.iso8601, "spend" => spend,
          "intercept" => intercept, "weights" => weights }.compact
      end
    end
  end
end
