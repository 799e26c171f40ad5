# frozen_string_literal: true

module EstrelServer
  module CLI
    # Sources and their sending keys on the command line.
    class SourceCommand
      # @param shell [#say]
      def initialize(shell)
        @shell = shell
      end

      # @return [void]
      def list
        Source.order(:name).each do |source|
          keys = source.sending_keys.map { |key| "#{key.hint} #{key.state}" }
          @shell.say "#{source.name}: #{keys.empty? ? "no key" : keys.join(", ")}"
        end
      end

      # Adds a source, or issues a further key to one that has none in use.
      #
      # @param name [String]
      # @return [void]
      def add(name)
        source = Source.find_or_initialize_by(name: name)
        source.save!(context: :by_hand)
        if source.sending_keys.usable.any?
          raise Error,
                "#{name} has a key already; use: bin/estrel source rotate #{name}"
        end

        show(SendingKey.issue(source).last)
      end

      # @param name [String]
      # @param overlap_hours [Integer] for which the keys before go on working
      # @return [void]
      def rotate(name, overlap_hours) = show(found(name).rotate_key(overlap_hours).last)

      # @param name [String]
      # @return [void]
      def revoke(name)
        count = found(name).sending_keys.usable.update_all(revoked_at: Time.now.utc)
        @shell.say "#{count} keys of #{name} have been revoked"
      end

      private

      def found(name) = Source.find_by(name: name) || raise(Error, "no source #{name.inspect}")

      def show(key) = @shell.say("sending key, shown this once: #{key}")
    end
  end
end
