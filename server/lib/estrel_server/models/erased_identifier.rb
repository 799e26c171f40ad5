# frozen_string_literal: true

require "openssl"

module EstrelServer
  # The tombstone of an identifier: a keyed digest, so that it can be recognised when it comes back but not read.
  class ErasedIdentifier < Record
    # @param identifiers [Array<String>] kind:value
    # @return [Array<String>] by which they are known from now on
    def self.digests(identifiers)
      key = Settings::Secrets.erasure(EstrelServer.settings).first
      identifiers.map { |identifier| digest(key, identifier) }
    end

    # @param identifiers [Array<String>] kind:value
    # @return [Array<String>] those that were erased, whichever key was in use
    def self.among(identifiers)
      return [] if identifiers.empty?

      keys = Settings::Secrets.erasure(EstrelServer.settings)
      known_by = identifiers.to_h { |identifier| [identifier, keys.map { |key| digest(key, identifier) }] }
      found = where(digest: known_by.values.flatten).pluck(:digest).to_set
      identifiers.select { |identifier| known_by[identifier].any? { |digest| found.include?(digest) } }
    end

    def self.digest(key, identifier) = OpenSSL::HMAC.hexdigest("SHA256", key, identifier)
    private_class_method :digest
  end
end
