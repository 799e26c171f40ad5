# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # `all` and `any`: conditions joined together. Frozen. An empty `all` fits everybody, an empty `any` nobody.
      class Group < Condition
        LONGEST = 500
        private_constant :LONGEST

        def self.schema(_kind) = { "type" => "array", "items" => Schema.reference("Condition"), "maxItems" => LONGEST }

        def self.read(body, place, reading, kind)
          new(kind, body.each_with_index.map { |child, index| reading.condition(child, "#{place}[#{index}]") })
        end

        # @return [String] "all" or "any"
        attr_reader :kind
        # @return [Array] conditions
        attr_reader :conditions

        def initialize(kind, conditions)
          @kind = kind
          @conditions = conditions.freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          masks = conditions.map { |condition| evaluator.mask(condition) }
          return evaluator.constant(kind == "all") if masks.empty?

          masks.reduce { |left, right| kind == "all" ? left & right : left | right }
        end

        # @return [Object] names what is computed completely
        def key = [kind, *conditions.map(&:key)]

        # @return [Hash] plain JSON
        def to_h = { kind => conditions.map(&:to_h) }

        def branches = conditions.each_with_index.map { |condition, index| ["#{kind}[#{index}]", condition] }

        def parts(words)
          said = if conditions.empty?
                   kind == "all" ? "(no conditions)" : "(no alternatives yet)"
                 else
                   "who match #{kind} of:"
                 end
          [words.plain(said)]
        end

        def text(words)
          return super if conditions.empty?
          return conditions.first.text(words) if conditions.one?

          "(#{conditions.map { |condition| condition.text(words) }.join(kind == "any" ? ", or " : ", and ")})"
        end

        def nearness(found, inner)
          return super if inner.empty?

          kind == "any" ? inner.max : inner.sum / inner.size
        end
      end
    end
  end
end
