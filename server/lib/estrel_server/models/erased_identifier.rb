# frozen_string_literal: true

require "openssl"

module EstrelServer
  # The tombstone of an identifier: a keyed digest, so that it can be recognised when it comes back but not read.
  class ErasedIdentifier < Record
    # @param identifiers [Array<String>] kind:value
    # @return [Hash{String => String}] to digest
    def self.digests(identifiers)
      key = Settings::Secrets.erasure(EstrelServer.settings)
      identifiers.to_h { |identifier| [identifier, OpenSSL::HMAC.hexdigest("SHA256", key, identifier)] }
    end

    # @param identifiers [Array<String>] kind:value
    # @return [Array<String>] those that were erased
    def self.among(identifiers)
      return [] if identifiers.empty?

      digests = digests(identifiers)
      found = where(digest: digests.values).pluck(:digest).to_set
      digests.filter_map { |identifier, digest| identifier if found.include?(digest) }
    end
  end
end
