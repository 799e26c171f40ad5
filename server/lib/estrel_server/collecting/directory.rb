# frozen_string_literal: true

module EstrelServer
  module Collecting
    # What the collector needs of the store at every request, looked up once a second: keys, sources, identifier kinds,
    # the tolerance for future times, and from when on events are kept. So a revoked key is refused a second later at
    # the latest.
    class Directory
      FRESH_FOR = 1.0
      # How often the last use of a key is noted, seconds.
      NOTE_USE = 60

      # A source as the collector sees it.
      Source = Struct.new(:id, :name, :allowed_types, :events_per_minute, :demo, keyword_init: true)
      # Everything at one moment.
      Contents = Struct.new(:keys, :kinds, :tolerance, :demo, :kept_from)

      # @return [Directory] the one of this process for the workspace that this thread works in
      def self.shared = Workspaces.current.keep(:collecting_directory) { new }

      def initialize
        @mutex = Mutex.new
        @read_at = nil
        @used = {}
      end

      # @param key [String, nil]
      # @return [Source, nil] nil where the key is unknown, revoked or expired
      def source(key)
        return unless key

        id, expires_at, source = contents.keys[SendingKey.digest(key)]
        return if id.nil? || (expires_at && expires_at <= Time.now.utc)

        note_use(id)
        source
      end

      # @param env [Hash] the environment of a request
      # @return [Source, nil] that its authorization header names
      def source_of_request(env)
        scheme, key = env["HTTP_AUTHORIZATION"].to_s.split(" ", 2)
        source(key) if scheme&.casecmp?("bearer")
      end

      # @return [Contents]
      def contents
        @mutex.synchronize do
          if @read_at.nil? || now - @read_at > FRESH_FOR
            @contents = read
            @read_at = now
          end
          @contents
        end
      end

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      def read
        Database::OnceHeard.within(Record) do
          keys = SendingKey.usable.includes(:source).to_h do |key|
            [key.digest, [key.id, key.expires_at, source_of(key.source, key.demo)]]
          end
          workspace = Workspace.current
          Contents.new(keys, IdentifierKind.ids.keys, workspace.future_tolerance_minutes * 60, workspace.demo,
                       workspace.kept_from)
        end
      end

      def source_of(row, demo)
        Source.new(id: row.id, name: row.name, allowed_types: row.allowed_types,
                   events_per_minute: row.events_per_minute, demo: demo).freeze
      end

      def note_use(id)
        return if @used[id] && now - @used[id] < NOTE_USE

        @used[id] = now
        Record.connection_pool.with_connection { SendingKey.where(id: id).update_all(last_used_at: Time.now.utc) }
      end
    end
  end
end
