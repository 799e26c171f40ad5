# frozen_string_literal: true

require "digest"

module Estrel
  module Exports
    # Addresses in the one form in which they are compared, and as digests.
    #
    # E-mail addresses without surrounding space, in small letters (mail systems take them for the same); phone numbers
    # as digits with the leading plus; anything else without surrounding space.
    module Address
      DIGEST = /\A\h{64}\z/

      module_function

      # @param kind [String] "email", "phone" (or "sms"), or another identifier kind
      # @param value [String]
      # @return [String]
      def normal(kind, value)
        case kind
        when "email" then value.strip.downcase
        when "phone", "sms" then value.strip.gsub(/[^0-9+]/, "").sub(/(?<!\A)\+/, "")
        else value.strip
        end
      end

      # @param kind [String]
      # @param value [String]
      # @return [String] SHA-256 of the normal form, 64 small hexadecimal digits
      def digest(kind, value) = Digest::SHA256.hexdigest(normal(kind, value))
    end
  end
end
