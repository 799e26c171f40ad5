# frozen_string_literal: true

module Estrel
  module Audience
    # Two values of which either may be missing, as one text that can be taken apart again, whatever stands in them:
    # how long the first is, then both, each with a mark before it that tells whether there is one.
    module Pair
      THERE = "="
      MISSING = "-"
      LENGTH = /\A(\d{1,9}):/
      private_constant :THERE, :MISSING, :LENGTH

      module_function

      # @param left [Polars::Expr] text
      # @param right [Polars::Expr] text
      # @return [Polars::Expr] text, never null
      def of(left, right)
        first, second = [left, right].map { |one| (Polars.lit(THERE) + one).fill_null(MISSING) }
        first.str.n_chars.cast(Polars::String) + Polars.lit(":") + first + second
      end

      # @param left [String, nil]
      # @param right [String, nil]
      # @return [String] as {of}
      def text(left, right)
        first, second = [left, right].map { |one| one.nil? ? MISSING : "#{THERE}#{one}" }
        "#{first.size}:#{first}#{second}"
      end

      # @param text [String] of {of}
      # @return [Array(String, String)] either may be nil
      def taken_apart(text)
        length = Integer(text[LENGTH, 1], 10)
        both = text.sub(LENGTH, "")
        [both[0, length], both[length..]].map { |one| one.delete_prefix(THERE) unless one == MISSING }
      end
    end
  end
end
