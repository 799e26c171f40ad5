# frozen_string_literal: true

require "rack/attack"

module EstrelServer
  module Access
    # Holds whoever tries passwords to a few a minute, by the account that is tried and by the peer's address. Counted
    # where the request has been read, so its spelling changes nothing. The counts are in files, so that all processes
    # of the web server share them.
    class Attempts
      BY_PEER = 20
      BY_ACCOUNT = 6
      MINUTE = 60

      # @param directory [String]
      def initialize(directory)
        @store = ActiveSupport::Cache::FileStore.new(directory)
        @counts = Rack::Attack::Cache.new(store: @store)
      end

      # Counts one more attempt.
      #
      # @param account [String] what distinguishes the account or link that is tried
      # @param peer [String] address
      # @return [Boolean] whether there have been too many in this minute
      def too_many?(account, peer)
        account = Digest::SHA256.hexdigest(account.strip.downcase)
        counts = [@counts.count("account:#{account}", MINUTE), @counts.count("peer:#{peer}", MINUTE)]
        counts[0] > BY_ACCOUNT || counts[1] > BY_PEER
      end

      # Forgets what is older than a minute.
      #
      # @return [void]
      def clear_old = @store.cleanup
    end
  end
end
