# frozen_string_literal: true

module Estrel
  module Analyses
    # Adds up what was found in two parts of a ledger: numbers, wherever they stand in lists and hashes; the rows of
    # data frames, which are put below each other; and whatever else knows `+`.
    module Sum
      # What can be taken away again, with `-`, from what it was added to.
      module Reversible
      end

      module_function

      # @param one [Object]
      # @param other [Object] of the same shape; a key that stands in one hash only is taken over, and nil is nothing
      # @return [Object] of the same shape
      def of(one, other)
        return one || other if one.nil? || other.nil?

        case one
        when Hash then one.merge(other) { |_, left, right| of(left, right) }
        when Array then one.zip(other).map { |left, right| of(left, right) }
        when Polars::DataFrame then Polars.concat([one, other])
        else one + other
        end
      end

      # @param one [Object]
      # @param other [Object] a part of it, of the same shape
      # @return [Object] the rest
      def less(one, other)
        return one if other.nil?

        case one
        when Hash then one.to_h { |key, value| [key, less(value, other[key])] }
        when Array then one.zip(other).map { |parts| less(*parts) }
        else one - other
        end
      end

      # What adds up over people, after the histories of some of them have changed. A number of a tally that has become
      # nothing goes, as if it had never been counted.
      #
      # @param whole [Object] of everybody, as it was
      # @param outdated [Object] of those whose histories have changed, as they were
      # @param renewed [Object] of these, as they are
      # @return [Object] of everybody, as it is
      def renewed(whole, outdated, renewed)
        return of(whole, renewed) if whole.nil? || outdated.nil?
        return less(whole, outdated) if renewed.nil?

        case whole
        when Hash then of(renewed_hash(whole, outdated, renewed), renewed.except(*whole.keys))
        when Array then whole.zip(outdated, renewed).map { |parts| renewed(*parts) }
        else of(whole - outdated, renewed)
        end
      end

      # @param found [Object]
      # @return [Boolean] whether {.renewed} is exact for it: whole numbers, fractions of such, and what can be taken
      #   away again
      def exact?(found)
        case found
        when Hash then found.each_value.all? { |value| exact?(value) }
        when Array then found.all? { |value| exact?(value) }
        when Integer, Rational, Reversible, nil then true
        else false
        end
      end

      def renewed_hash(whole, outdated, renewed)
        whole.filter_map do |key, value|
          next [key, of(value, renewed[key])] unless outdated.key?(key)

          left = renewed(value, outdated[key], renewed[key])
          [key, left] unless !renewed.key?(key) && nothing?(left)
        end.to_h
      end
      private_class_method :renewed_hash

      def nothing?(value)
        case value
        when Hash then value.each_value.all? { |inner| nothing?(inner) }
        when Array then value.all? { |inner| nothing?(inner) }
        else value.nil? || value == 0 # rubocop:disable Style/NumericPredicate -- it may be no number
        end
      end
      private_class_method :nothing?
    end
  end
end
