# frozen_string_literal: true

module Estrel
  module Analyses
    # From the least of some values to the greatest; of two parts, from the lesser to the greater.
    Span = Struct.new(:first, :last) do
      def +(other) = Span.new([first, other.first].min, [last, other.last].max).freeze
    end
  end
end
