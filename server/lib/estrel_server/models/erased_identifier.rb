# frozen_string_literal: true

require "openssl"

module EstrelServer
  # The tombstone of an identifier: a keyed digest, so that it can be recognised when it comes back but not read.
  class ErasedIdentifier < Record
    # @param identifiers [Array<String>] kind:value
    # @return [Hash{String => String}] to digest
    def self.digests(identifiers)
      key = secret
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

    # The key lies beside the database's password, readable by the owner only.
    def self.secret
      path = EstrelServer.settings.erasure_key_file
      FileUtils.mkdir_p(File.dirname(path))
      File.open(path, File::WRONLY | File::CREAT | File::EXCL, 0o600) { |file| file.write(SecureRandom.hex(32)) }
      File.read(path)
    rescue Errno::EEXIST
      File.read(path)
    end
    private_class_method :secret
  end
end
