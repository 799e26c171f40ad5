# frozen_string_literal: true

module EstrelServer
  module Importing
    # Tells devices apart: an event that came by a visitor identifier keeps a number made of it. So devices can be
    # counted truly even where several belong to one person, or several people use one; and no table has to be asked
    # for it.
    module Device
      KIND = "visitor"
      # Of 60 bits: among ten million devices two share a number with a chance of 1 in 23,000 (n² / 2^61).
      DIGITS = 15

      module_function

      # @param identifier [String] "visitor:7fa2"
      # @return [Integer, nil] nil for an identifier of another kind
      def number(identifier)
        kind, value = Importing::Identifiers.split(identifier)
        Digest::SHA256.hexdigest(value)[0, DIGITS].to_i(16) if kind == KIND
      end
    end
  end
end
