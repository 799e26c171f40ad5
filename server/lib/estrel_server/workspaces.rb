# frozen_string_literal: true

module EstrelServer
  # The workspaces of an installation: each has a schema of the database and, under `var`, directories of its own.
  # Accounts are the installation's and stand in the first one's schema.
  #
  # Which one a thread works in is said by the address of a request or by the token shown with it, and for a whole
  # process by `ESTREL_WORKSPACE`; where nothing is said it is the first one.
  module Workspaces
    FIRST = "main"
    # linear: one run of characters after the first
    NAME = /\A[a-z][a-z0-9-]{1,29}\z/
    NAMES = "must have 2 to 30 lower-case letters, digits and hyphens, and begin with a letter"
    HERE = :estrel_workspace
    LOCK = Monitor.new
    private_constant :HERE, :LOCK

    module_function

    # @return [Place] in which this thread works
    def current = Thread.current.thread_variable_get(HERE) || own

    # @return [Place] in which this process works, where nothing else is said
    def own = @own ||= place(ENV.fetch("ESTREL_WORKSPACE", FIRST))

    # @return [Place] with the accounts
    def first = place(FIRST)

    # @param name [String]
    # @param id [Integer, nil] of its row, where that is known: what is kept of one that was removed is not for another
    #   that is made under its name
    # @return [Place] the same one each time
    # @raise [Settings::Invalid] where that is no name of a workspace
    def place(name, id = nil)
      LOCK.synchronize do
        found = (@places ||= {})[name]
        next found if found && (id.nil? || found.id == id)

        @places[name] = Place.new(name, id)
      end
    end

    # From now on this thread works in it.
    #
    # @param place [Place]
    # @return [void]
    def enter(place)
      before = current
      return if place.equal?(before)

      # So that a thread that works in all of them by turns holds no connection to each.
      ActiveRecord::Base.connection_pool.release_connection if before.connected?
      place.connect
      Thread.current.thread_variable_set(HERE, place)
    end

    # @param place [Place]
    # @yieldreturn [Object]
    # @return [Object] the block's result
    def within(place)
      before = current
      enter(place)
      yield
    ensure
      enter(before)
    end

    # @param told [Boolean] whether whoever waits for it is told of what fails in it, so that it need not say so itself
    # @return [Thread] which works where this one does
    def thread(told: false)
      here = current
      Thread.new do
        Thread.current.report_on_exception = !told
        enter(here)
        yield
      end
    end

    # @return [Estrel::Ledger::ResultCache] what this process remembers of all their ledgers
    def results
      LOCK.synchronize do
        @results ||= Estrel::Ledger::ResultCache.new(limit: first.settings.remembered_mb * 1_000_000)
      end
    end

    # Works in each of them that is open, the first one before the others.
    #
    # @yieldparam place [Place]
    # @return [Array<Object>] what the block has given for each
    def each_open(&)
      [first, *InstalledWorkspace.open.order(:name).map(&:place)].map { |place| within(place) { yield(place) } }
    end

    # Has Active Record reach the schema of the workspace that the thread works in.
    module OfThread
      def current_shard = Workspaces.current.shard
    end
    ActiveRecord::Base.singleton_class.prepend(OfThread)
  end
end
