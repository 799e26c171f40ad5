# frozen_string_literal: true

module EstrelServer
  module Workspaces
    # One workspace, as this process knows it: where its files and its tables are, and what the process keeps of it.
    class Place
      # @return [String]
      attr_reader :name
      # @return [Integer, nil] of its {InstalledWorkspace}
      attr_reader :id

      # @param name [String]
      # @param id [Integer, nil]
      # @raise [Settings::Invalid] where that is no name of a workspace
      def initialize(name, id = nil)
        unless NAME.match?(name)
          raise Settings::Invalid, "#{name.to_s[0, 40].inspect} is no name of a workspace; it #{NAMES}"
        end

        @name = name
        @id = id
        @lock = Monitor.new
        @kept = {}
      end

      # Removes the ledgers on this machine of workspaces that there are no more. What could not be made anew stays.
      #
      # @param settings [Settings]
      # @param but [Array<String>] names of those there are
      # @return [void]
      def self.clear(settings, but:)
        left = Dir.glob(File.join(settings.var, "workspaces", "*")).map { |path| File.basename(path) } - but
        left.grep(NAME).each { |name| FileUtils.rm_rf(settings.of(name).ledger_directory) }
      end

      # @return [Boolean] whether it is the one with the accounts
      def first? = name == FIRST

      # @return [String] before the paths of its addresses
      def base = first? ? "" : "/w/#{name}"

      # @return [Symbol] by which Active Record knows its schema
      def shard = first? ? :default : name.to_sym

      # @return [Settings]
      def settings = keep(:settings) { first? ? Settings.from(ENV) : Workspaces.first.settings.of(name) }

      # @return [Estrel::Ledger] shared by the threads of this process
      def ledger
        keep(:ledger) { Estrel::Ledger.new(settings.ledger_directory, shelves: true, results: Workspaces.results) }
      end

      # What there is once for all threads of this process.
      #
      # @param what [Symbol]
      # @yieldreturn [Object] made the first time
      # @return [Object]
      def keep(what) = @lock.synchronize { @kept.fetch(what) { @kept[what] = yield } }

      # @param what [Symbol] to be made anew
      # @return [void]
      def forget(what) = @lock.synchronize { @kept.delete(what) }

      # @return [Boolean]
      def connected? = !pool.nil?

      # Connects Active Record, where that has not been done yet.
      #
      # @return [void]
      def connect
        @lock.synchronize { establish(Database.new(settings).connection) unless connected? }
      end

      # @param connection [Hash]
      # @return [void]
      def establish(connection)
        handler.establish_connection(connection, owner_name: ActiveRecord::Base, role: ActiveRecord::Base.current_role,
                                                 shard: shard)
      end

      private

      def handler = ActiveRecord::Base.connection_handler

      def pool
        handler.retrieve_connection_pool("ActiveRecord::Base", role: ActiveRecord::Base.current_role, shard: shard)
      end
    end
  end
end
