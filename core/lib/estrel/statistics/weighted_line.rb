# frozen_string_literal: true

module Estrel
  module Statistics
    # A straight line through points of different weight: weighted least squares, the dispersion estimated from the
    # residuals, the slope's 95% interval by Student's distribution (N. R. Draper and H. Smith, Applied Regression
    # Analysis, 3rd edition 1998, sections 9.2 and 1.4). Frozen.
    class WeightedLine
      # @param points [Array<Array(Numeric, Numeric, Numeric)>] place, value and weight (positive) of each
      # @return [WeightedLine, nil] nil for fewer than three different places
      def self.of(points) = points.map(&:first).uniq.size < 3 ? nil : new(points)

      # @return [Float] by how much the value changes from one place to the next
      attr_reader :slope
      # @return [Float] ends of the slope's 95% interval
      attr_reader :low, :high

      def initialize(points)
        weight = points.sum(&:last).to_f
        @place, @value = [0, 1].map { |index| points.sum { |point| point.last * point[index] } / weight }
        spread = points.sum { |place, _, own| own * ((place - @place)**2) }
        @slope = points.sum { |place, value, own| own * (place - @place) * (value - @value) } / spread
        half = half_interval(points, spread)
        @low = slope - half
        @high = slope + half
        freeze
      end

      # @param place [Numeric]
      # @return [Float] the value on the line
      def at(place) = @value + (slope * (place - @place))

      private

      def half_interval(points, spread)
        degrees = points.size - 2
        rest = points.sum { |place, value, own| own * ((value - at(place))**2) }
        Student.quantile(degrees.to_f) * Math.sqrt(rest / degrees / spread)
      end
    end
  end
end
