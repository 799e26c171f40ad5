# frozen_string_literal: true

require "openssl"

module EstrelServer
  class Settings
    # The key under which Active Record encrypts secrets, and the one that tells erased people when they come back:
    # those given (`ESTREL_SECRETS_KEY`, `ESTREL_ERASURE_KEY`), or ones made at the first start and kept in files that
    # only the owner can read. All machines that share a database need the same.
    module Secrets
      module_function

      # @param settings [Settings]
      # @return [void]
      def configure(settings) = configure_with(of_secrets(settings))

      # What was written with another key cannot be read afterwards.
      #
      # @param key [String]
      # @return [void]
      def configure_with(key)
        ActiveRecord::Encryption.configure(primary_key: derived(key, "primary"),
                                           deterministic_key: derived(key, "deterministic"),
                                           key_derivation_salt: derived(key, "salt"),
                                           support_sha1_for_non_deterministic_encryption: false)
      end

      # @param settings [Settings]
      # @param purpose [String]
      # @return [String] 32 bytes for something else that is kept secret
      def key(settings, purpose)
        OpenSSL::HMAC.digest("SHA256", of_secrets(settings), purpose)
      end

      # @param settings [Settings]
      # @return [Array<String>] under which the identifiers of erased people are remembered: the key for those to come,
      #   and after it those that have been it before, the last one first
      def erasure(settings)
        given = settings.erasure_key
        given ? [given, *settings.erasure_keys_before.to_s.split(",")] : kept(settings.erasure_key_file).split("\n")
      end

      # Makes another key for people who are erased from now on, where it is kept here.
      #
      # @param settings [Settings]
      # @return [void]
      def renew_erasure(settings)
        return if settings.erasure_key

        before = erasure(settings)
        part = "#{settings.erasure_key_file}.#{Process.pid}"
        write(part, [SecureRandom.hex(32), *before].join("\n"))
        File.rename(part, settings.erasure_key_file)
      end

      # Notes by which keys the database is written the first time, and compares afterwards.
      #
      # @param settings [Settings]
      # @return [void]
      # @raise [Error] where they are others
      def check(settings)
        ours = digest(settings)
        noted = Workspace.current.keys_digest
        return Workspace.current.update!(keys_digest: ours) if noted.nil?
        return if noted == ours

        raise Error, "the keys of this machine are not those that this database is written with; give all machines " \
                     "the same ESTREL_SECRETS_KEY and ESTREL_ERASURE_KEY, with those before; a new one is taken up " \
                     "by bin/estrel setup with ESTREL_SECRETS_KEY_BEFORE; where the old ones are lost, run " \
                     "bin/estrel setup --new-keys"
      end

      # @param settings [Settings]
      # @param key [String] that secrets are encrypted with
      # @param erasure [Array<String>] see {.erasure}
      # @return [String] by which keys are known without being told
      def digest(settings, key: of_secrets(settings), erasure: self.erasure(settings))
        Digest::SHA256.hexdigest([key, *erasure].map { |one| derived(one, "known") }.join)
      end

      def of_secrets(settings) = settings.secrets_key || kept(settings.secrets_key_file)
      private_class_method :of_secrets

      # @param path [String]
      # @return [String]
      def kept(path)
        make(path) unless File.exist?(path)
        File.read(path)
      end
      private_class_method :kept

      # Whole or not at all, and once, whoever else starts at the same time.
      def make(path)
        FileUtils.mkdir_p(File.dirname(path), mode: 0o700)
        part = "#{path}.#{Process.pid}"
        write(part, SecureRandom.hex(32))
        File.link(part, path)
      rescue Errno::EEXIST
        nil
      ensure
        FileUtils.rm_f(part)
      end
      private_class_method :make

      def write(path, content)
        File.open(path, File::WRONLY | File::CREAT | File::TRUNC, 0o600) { |file| file.write(content) }
      end
      private_class_method :write

      def derived(key, purpose) = OpenSSL::HMAC.hexdigest("SHA256", key, purpose)
      private_class_method :derived
    end
  end
end
