# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *chance*: whoever's chance to come back, or to lapse, lies in a range, by a model that the condition carries, so
      # that it means the same whenever it is asked. Whom the model is not about is not meant. Frozen.
      class Chance < Condition
        def self.schema(_kind)
          share = { "type" => "number", "minimum" => 0, "maximum" => 1 }
          Schema.object({ "at_least" => share, "below" => share, "model" => Propensity::Model.schema },
                        required: %w[model], "minProperties" => 2)
        end

        def self.read(body, place, reading, _kind)
          at_least, below = body.values_at("at_least", "below")
          if at_least && below && at_least >= below
            return reading.fault("#{place}.below", "the upper limit must be greater than the lower limit")
          end

          model = model(body["model"], "#{place}.model", reading)
          model && new(model, at_least, below)
        end

        def self.model(json, place, reading)
          return unless reading.fields.day(json["learned_until"], "#{place}.learned_until")
          return Propensity::Model.from_h(json) unless json["spend"]

          spend = reading.selections.number(json["spend"], "#{place}.spend")
          spend && Propensity::Model.from_h(json.merge("spend" => spend))
        end
        private_class_method :model

        # @return [Propensity::Model]
        attr_reader :model
        # @return [Float, nil]
        attr_reader :at_least
        # @return [Float, nil]
        attr_reader :below

        def initialize(model, at_least, below)
          @model = model
          @at_least = at_least
          @below = below
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          chance = Polars.col("chance")
          inside = [(chance >= at_least if at_least), (chance < below if below)].compact.reduce(:&)
          evaluator.membership(model.chances(evaluator).filter(inside)["profile_id"])
        end

        def apart?(other)
          return false unless other.is_a?(Chance) && other.model.to_h == model.to_h

          (!below.nil? && !other.at_least.nil? && below <= other.at_least) ||
            (!at_least.nil? && !other.below.nil? && other.below <= at_least)
        end

        # @return [Hash] plain JSON
        def to_h = { "chance" => { "at_least" => at_least, "below" => below, "model" => model.to_h }.compact }

        def parts(words)
          [words.plain("whose #{model.within}-day #{model.outcome} probability is"),
           words.part(range, "state", "range", "chance"),
           words.plain("(model of #{English.date(model.learned_until)})")]
        end

        def evidence(evaluator)
          chance = model.chances(evaluator)["chance"].to_a.first
          return { found: "not covered by this model" } unless chance

          bounds = [at_least && (chance / at_least), below && ((1 - chance) / (1 - below))].compact
          { found: "#{English.precise(chance)} to #{model.what}", asked: range, nearness: bounds.min.clamp(0.0, 1.0) }
        end

        def costly? = true

        private

        def range
          least, most = [at_least, below].map { |share| share && English.precise(share).sub(".0%", "%") }
          return "at least #{least}" unless below

          at_least ? "from #{least} to below #{most}" : "below #{most}"
        end
      end
    end
  end
end
