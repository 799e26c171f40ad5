# frozen_string_literal: true

require "openssl"

module EstrelServer
  class Settings
    # The key under which Active Record encrypts secrets: the one given (`ESTREL_SECRETS_KEY`), or one made at the first
    # start and kept in a file that only the owner can read, apart from the database.
    module Secrets
      module_function

      # @param settings [Settings]
      # @return [void]
      def configure(settings)
        key = settings.secrets_key || kept(settings.secrets_key_file)
        ActiveRecord::Encryption.configure(primary_key: derived(key, "primary"),
                                           deterministic_key: derived(key, "deterministic"),
                                           key_derivation_salt: derived(key, "salt"))
      end

      # @param settings [Settings]
      # @param purpose [String]
      # @return [String] 32 bytes for something else that is kept secret
      def key(settings, purpose)
        OpenSSL::HMAC.digest("SHA256", settings.secrets_key || kept(settings.secrets_key_file), purpose)
      end

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
        File.open(part, File::WRONLY | File::CREAT | File::TRUNC, 0o600) { |file| file.write(SecureRandom.hex(32)) }
        File.link(part, path)
      rescue Errno::EEXIST
        nil
      ensure
        FileUtils.rm_f(part)
      end
      private_class_method :make

      def derived(key, purpose) = OpenSSL::HMAC.hexdigest("SHA256", key, purpose)
      private_class_method :derived
    end
  end
end
