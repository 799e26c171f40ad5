# frozen_string_literal: true

module Estrel
  # How many values there are, their mean (nil without any) and the sum of squared deviations from it; those of two
  # samples add up without loss of precision (T. F. Chan, G. H. Golub and R. J. LeVeque, The American Statistician 37
  # (1983), 242–247).
  Moments = Struct.new(:size, :mean, :squares) do
    # @param values [Polars::Series] of floats, none missing
    # @return [Moments]
    def self.of(values)
      return new(0, nil, 0.0) if values.len.zero?

      new(values.len, values.mean.to_f, values.len < 2 ? 0.0 : values.var.to_f * (values.len - 1))
    end

    def +(other)
      return other if mean.nil?
      return self if other.mean.nil?

      all = size + other.size
      apart = other.mean - mean
      Moments.new(all, mean + (apart * other.size / all),
                  squares + other.squares + (apart * apart * size * other.size / all))
    end

    # @return [Float, nil] of the sample; nil for fewer than two values
    def variance = size < 2 ? nil : squares / (size - 1)
  end
end
