# frozen_string_literal: true

module EstrelServer
  module BackingUp
    # The keys that are kept beside the database: the one that secrets of destinations are encrypted under, and the one
    # that tells erased people when they come back. Whoever has them and a backup can read those secrets.
    class Keys
      # @param settings [Settings]
      def initialize(settings)
        @files = { "secrets" => settings.secrets_key_file, "erasure" => settings.erasure_key_file }
      end

      # @param path [String] of a file that is not there yet
      # @return [void]
      # @raise [Error]
      def write(path)
        found = @files.select { |_, file| File.exist?(file) }.transform_values { |file| File.read(file) }
        File.open(path, File::WRONLY | File::CREAT | File::EXCL, 0o600) { |file| file.write(JSON.generate(found)) }
      rescue Errno::EEXIST
        raise Error, "#{path} exists already; name a new file for the keys"
      end

      # @param path [String]
      # @return [void]
      # @raise [Error]
      def restore(path)
        read(path).slice(*@files.keys).each do |name, key|
          FileUtils.mkdir_p(File.dirname(@files[name]), mode: 0o700)
          File.open(@files[name], File::WRONLY | File::CREAT | File::TRUNC, 0o600) { |file| file.write(key) }
        end
      end

      private

      def read(path)
        found = JSON.parse(File.read(path))
        return found if found.is_a?(Hash) && found.values.all?(String)

        raise Error, "#{path} does not hold keys"
      rescue Errno::ENOENT, JSON::ParserError
        raise Error, "#{path} does not hold keys"
      end
    end
  end
end
