# frozen_string_literal: true

module EstrelServer
  module LiveEvents
    # Keeps the live feed going for everybody who watches it, from one thread of each web process, so that
    # watching takes no thread from those who ask.
    class LiveFeed
      PAUSE = 1.0
      # Something is written at least so often, so that a watcher who is gone is noticed.
      HEARTBEAT = 15
      MAX_WATCHERS = 50
      # Of one account: its oldest is closed for a further one.
      MAX_PER_ACCOUNT = 5
      MAX_ROWS = 200

      # A connection that is written to: its account, which rows it gets, the newest it has got, and whether its session
      # or token is still allowed to watch.
      Watcher = Struct.new(:io, :account_id, :feed, :cursor, :allowed, :written_at)

      # @return [LiveFeed] the one of this process for the workspace that this thread works in
      def self.shared = Workspaces.current.keep(:live_feed) { new }

      # @param cursor [Feed::Cursor]
      # @param rows [Array<Hash>]
      # @return [String] one server-sent event
      def self.message(cursor, rows) = "id: #{cursor}\ndata: #{JSON.generate(rows)}\n\n"

      def initialize
        @watchers = []
        @mutex = Mutex.new
        @upkeep = Workers::Upkeep.new("web")
      end

      # @param io [IO] the connection, which is ours from now on
      # @param account_id [Integer]
      # @param feed [Feed]
      # @param cursor [Feed::Cursor]
      # @yieldreturn [Boolean] whether it may still be watched; asked in every round
      # @return [void]
      def add(io, account_id, feed, cursor, &allowed)
        @mutex.synchronize do
          make_room(account_id)
          # Written to at once: that is how the browser knows that it is connected.
          @watchers << Watcher.new(io, account_id, feed, cursor, allowed, 0)
          @thread = Workspaces.thread { work } unless @thread&.alive?
        end
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      # The limit per account keeps one account from closing the feeds of all others.
      def make_room(account_id)
        own = @watchers.select { |watcher| watcher.account_id == account_id }
        oldest = own.first if own.size >= MAX_PER_ACCOUNT
        oldest ||= @watchers.first if @watchers.size >= MAX_WATCHERS
        return unless oldest

        @watchers.delete(oldest)
        oldest.io.close
      end

      def work
        loop do
          watchers = @mutex.synchronize { @watchers.dup }
          @upkeep.step("live feed") do
            Record.connection_pool.with_connection { watchers.each { |watcher| tell(watcher) } }
          end
          sleep PAUSE
        rescue *Database::Store::AWAY
          sleep PAUSE
        end
      end

      def tell(watcher)
        return close(watcher) unless watcher.allowed.call

        cursor = Feed::Cursor.now
        rows = cursor == watcher.cursor ? [] : watcher.feed.rows(MAX_ROWS, after: watcher.cursor, up_to: cursor)
        watcher.cursor = cursor
        return write(watcher, self.class.message(cursor, rows)) if rows.any?

        write(watcher, ": still here\n\n") if now - watcher.written_at > HEARTBEAT
      end

      # A watcher who does not take what is written is let go: the browser comes back by itself, from where it was.
      def write(watcher, text)
        raise Errno::EPIPE unless watcher.io.write_nonblock(text) == text.bytesize

        watcher.written_at = now
      rescue IOError, SystemCallError
        close(watcher)
      end

      def close(watcher)
        @mutex.synchronize { @watchers.delete(watcher) }
        watcher.io.close
      end
    end
  end
end
