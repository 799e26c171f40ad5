# frozen_string_literal: true

module Estrel
  module Statistics
    # Small systems of linear equations.
    module Linear
      module_function

      # By Cholesky's decomposition.
      #
      # @param matrix [Array<Array<Float>>] symmetric, positive definite
      # @param right [Array<Float>]
      # @return [Array<Float>] what the matrix times gives the right side
      def solve(matrix, right)
        lower = decomposed(matrix)
        size = right.size
        half = []
        size.times { |i| half << ((right[i] - (0...i).sum { |k| lower[i][k] * half[k] }) / lower[i][i]) }
        found = Array.new(size, 0.0)
        (size - 1).downto(0) do |i|
          found[i] = (half[i] - ((i + 1)...size).sum { |k| lower[k][i] * found[k] }) / lower[i][i]
        end
        found
      end

      # @param matrix [Array<Array<Float>>] as in {solve}
      # @return [Array<Array<Float>>]
      def inverse(matrix)
        matrix.each_index.map { |at| solve(matrix, Array.new(matrix.size) { |one| one == at ? 1.0 : 0.0 }) }
      end

      def decomposed(matrix)
        lower = Array.new(matrix.size) { Array.new(matrix.size, 0.0) }
        matrix.each_index do |i|
          (0..i).each do |j|
            rest = matrix[i][j] - (0...j).sum { |k| lower[i][k] * lower[j][k] }
            lower[i][j] = i == j ? Math.sqrt(rest) : rest / lower[j][j]
          end
        end
        lower
      end
      private_class_method :decomposed
    end
  end
end
