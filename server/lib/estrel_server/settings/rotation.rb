# frozen_string_literal: true

module EstrelServer
  class Settings
    # Replaces the key that secrets are encrypted with: all are read with the one before, which is given
    # (`ESTREL_SECRETS_KEY_BEFORE`) or kept, and written with the new one, together or not at all in each workspace. No
    # other process may be at work meanwhile, since each has read its key when it started.
    #
    # Another key for people who are erased from now on is taken up at the same time. Of those erased before nothing is
    # kept that could be written anew, so the keys they are known by stay beside it.
    class Rotation
      # @return [Array<Class>] the models that have secrets
      def self.models = [Account, Destination]

      # @param settings [Settings]
      def initialize(settings)
        @settings = settings
      end

      # Puts the key that is kept aside, so that another is made and the next {#carry_out} takes it up; and makes
      # another for the erased.
      #
      # @return [void]
      # @raise [Error] where the key is not one that is kept here, or Estrel is running
      def begin
        if @settings.secrets_key
          raise Error, "the key is given by ESTREL_SECRETS_KEY; set that to the new key and " \
                       "ESTREL_SECRETS_KEY_BEFORE to the one so far, and run this without --rotate-key"
        end
        raise Error, "stop Estrel first; running processes still use the old key" if running?
        return if File.exist?(aside) || !File.exist?(@settings.secrets_key_file)

        File.rename(@settings.secrets_key_file, aside)
        Secrets.renew_erasure(@settings)
      end

      # Takes up new keys in this workspace, where there are any.
      #
      # @return [Integer, nil] how many secrets were written anew; nil where there was nothing to be done
      def carry_out
        before = @settings.secrets_key_before || (File.read(aside) if File.exist?(aside))
        return renew(before) if before && written_with?(key: before)

        Workspace.current.update!(keys_digest: Secrets.digest(@settings)) if written_with?
        nil
      end

      # Forgets the key before, once all workspaces have the new one.
      #
      # @return [void]
      def finish = FileUtils.rm_f(aside)

      private

      # Its own database runs as long as the rest does.
      def running? = @settings.database_url.nil? && Database.new(@settings).reachable?

      def aside = "#{@settings.secrets_key_file}-before"

      # @return [Boolean] whether the database was, before keys for the erased were added to those there are
      def written_with?(**key)
        erasure = Secrets.erasure(@settings)
        noted = Workspace.current.keys_digest
        erasure.each_index.any? { |added| Secrets.digest(@settings, **key, erasure: erasure.drop(added)) == noted }
      end

      def renew(before)
        Record.transaction do
          Secrets.configure_with(before)
          rows = self.class.models.flat_map { |model| readable(model) }
          Secrets.configure(@settings)
          rows.each(&:encrypt)
          Workspace.current.update!(keys_digest: Secrets.digest(@settings))
          rows.size
        end
      ensure
        Secrets.configure(@settings)
      end

      # With their secrets read. What had been written with a key that was lost stays as it is.
      def readable(model)
        model.find_each.select do |row|
          model.encrypted_attributes.filter_map { |name| row.public_send(name) }.any?
        rescue ActiveRecord::Encryption::Errors::Base
          false
        end
      end
    end
  end
end
