# frozen_string_literal: true

require "digest"

module Estrel
  module Exports
    # Who is in the holdout: a function of the holdout's name and the profile alone, so it is the same in every run, in
    # every export that shares the holdout, and whoever else comes or goes. Frozen.
    #
    # Each profile gets a place from 0 to 2^32 - 1, the first 32 bits of the SHA-256 of "name:profile"; those below the
    # limit are in the holdout.
    class Holdout
      PLACES = 2**32

      # @return [String]
      attr_reader :name
      # @return [Integer] places below it are in the holdout
      attr_reader :limit

      # @param name [String]
      # @param share [Float] from 0 (nobody) to 1 (everybody)
      # @return [Holdout]
      # @raise [Invalid]
      def self.share(name, share)
        unless share.is_a?(Numeric) && share.between?(0, 1)
          raise Invalid, "the share in the holdout must lie between 0% and 100%"
        end

        new(name, (share * PLACES).round)
      end

      # A holdout of as many of some people as asked for; with others later, it holds about the same share of them.
      #
      # @param name [String]
      # @param number [Integer]
      # @param ids [Array<Integer>] profile ids
      # @return [Holdout]
      # @raise [Invalid]
      def self.number(name, number, ids)
        unless number.is_a?(Integer) && number >= 0
          raise Invalid,
                "the number in the holdout is a whole number, 0 or more"
        end
        return new(name, number.zero? ? 0 : PLACES) if number.zero? || number >= ids.size

        holdout = new(name, 0)
        new(name, ids.map { |id| holdout.place(id) }.min(number).last + 1)
      end

      # @param name [String]
      # @param limit [Integer]
      def initialize(name, limit)
        @name = name
        @limit = limit
        freeze
      end

      # @param profile_id [Integer]
      # @return [Integer] 0 to {PLACES} - 1
      def place(profile_id) = Digest::SHA256.digest("#{name}:#{profile_id}").unpack1("N")

      # @param ids [Polars::Series] profile ids
      # @return [Polars::Series] booleans
      def mask(ids)
        held = limit.positive? ? ids.to_a.map { |id| place(id) < limit } : [false] * ids.len
        Polars::Series.new("held", held, dtype: Polars::Boolean)
      end
    end
  end
end
