# frozen_string_literal: true

require "prometheus/client"
require "prometheus/client/data_stores/direct_file_store"

module EstrelServer
  # Figures of how all processes of this machine do, for Prometheus: each process writes its own into a file, and the
  # web server puts them together, see {Page}. Labels name analyses, routes, queues and sources, never people.
  module Figures
    BUCKETS = [0.01, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 60, 300].freeze
    # Name, kind, what it is, labels.
    ALL = [
      [:estrel_requests_total, :counter, "Requests answered", %i[route method status]],
      [:estrel_request_seconds, :histogram, "Seconds until a request was answered", %i[route]],
      [:estrel_question_seconds, :histogram, "Seconds until an analysis was answered", %i[analysis]],
      [:estrel_questions_refused_total, :counter, "Questions that took too long or too much memory", %i[analysis]],
      [:estrel_parts_total, :counter, "Parts of questions, by where they were answered", %i[answered]],
      [:estrel_events_total, :counter, "Events that came in: stored, known already or refused", %i[source outcome]],
      [:estrel_imported_rows_total, :counter, "Rows of files: stored, known already or rejected", %i[outcome]],
      [:estrel_refresh_seconds, :histogram, "Seconds a refresh of the ledger took", []],
      [:estrel_jobs_total, :counter, "Background jobs that ended, by how they did", %i[queue outcome]],
      [:estrel_push_batches_total, :counter, "Batches of people told to destinations", %i[outcome]],
      [:estrel_faults_total, :counter, "Steps of background processes that failed", %i[process]],
      [:estrel_up, :gauge, "1 while what is checked is well", %i[check]],
      [:estrel_ledger_age_seconds, :gauge, "Seconds since the newest refresh of the ledger", []],
      [:estrel_ledger_events, :gauge, "Events in the ledger", []],
      [:estrel_ledger_profiles, :gauge, "Profiles in the ledger", []],
      [:estrel_jobs_waiting, :gauge, "Background jobs that wait", %i[queue]],
      [:estrel_jobs_oldest_seconds, :gauge, "Seconds for which the oldest of them has waited", %i[queue]],
      [:estrel_disk_free_bytes, :gauge, "Room left where Estrel keeps its data", []],
      [:estrel_memory_bytes, :gauge, "Memory that the processes of a kind hold", %i[process]],
      [:estrel_part_holders, :gauge, "Processes of all machines that answer parts of questions", []],
      [:estrel_processes, :gauge, "Processes of a kind that run", %i[process]]
    ].freeze
    private_constant :BUCKETS, :ALL
    LOCK = Mutex.new
    private_constant :LOCK

    module_function

    # @param name [Symbol] of {ALL} without its "estrel_"
    # @param labels [Hash{Symbol => String}]
    # @param by [Integer]
    # @return [void]
    def count(name, labels = {}, by: 1) = quietly { metric(name).increment(by: by, labels: labels) if by.positive? }

    # @param name [Symbol]
    # @param seconds [Float]
    # @param labels [Hash{Symbol => String}]
    # @return [void]
    def time(name, seconds, labels = {}) = quietly { metric(name).observe(seconds, labels: labels) }

    # @param name [Symbol]
    # @param value [Numeric]
    # @param labels [Hash{Symbol => String}]
    # @return [void]
    def set(name, value, labels = {}) = quietly { metric(name).set(value, labels: labels) }

    # @yieldreturn [Object]
    # @return [Array(Object, Float)] the block's result, and the seconds it took
    def timed
      started = Process.clock_gettime(Process::CLOCK_MONOTONIC)
      result = yield
      [result, Process.clock_gettime(Process::CLOCK_MONOTONIC) - started]
    end

    # @return [String] in Prometheus' text format, of all processes together
    def text
      require "prometheus/client/formats/text"
      Prometheus::Client::Formats::Text.marshal(registry)
    end

    # Tells that this process is one of a kind, so that its memory is counted there.
    #
    # @param kind [String] "web"
    # @return [void]
    def register(kind) = quietly { File.write(File.join(made(processes_directory), Process.pid.to_s), kind) }

    # @return [Hash{String => Array<Integer>}] by kind, the numbers of the processes that have registered
    def processes
      Dir.children(made(processes_directory)).group_by { |pid| File.read(File.join(processes_directory, pid)) }
         .transform_values { |pids| pids.map(&:to_i) }
    rescue Errno::ENOENT
      {}
    end

    # Forgets those of processes that ended long ago; at start, before any other process runs.
    #
    # @return [void]
    def clear = FileUtils.rm_rf(directory)

    # Has this process open its files anew when it next counts something.
    #
    # @return [void]
    def reopen = LOCK.synchronize { @registry = nil }

    def directory = File.join(EstrelServer.settings.var, "figures")

    def processes_directory = File.join(directory, "processes")

    def made(path) = path.tap { FileUtils.mkdir_p(path, mode: 0o700) }

    def metric(name) = registry.get(:"estrel_#{name}")

    def registry = LOCK.synchronize { @registry ||= build }

    def build
      store = Prometheus::Client::DataStores::DirectFileStore.new(dir: made(File.join(directory, "values")))
      Prometheus::Client.config.data_store = store
      Prometheus::Client::Registry.new.tap do |registry|
        ALL.each do |name, kind, help, labels|
          more = { histogram: { buckets: BUCKETS }, gauge: { store_settings: { aggregation: :most_recent } } }
          registry.public_send(kind, name, docstring: help, labels: labels, **more.fetch(kind, {}))
        end
      end
    end
    private_class_method :build

    # No work is left undone because it cannot be counted. A file that could not be opened stays closed unless all are
    # opened anew.
    def quietly
      yield
      nil
    rescue SystemCallError, IOError => e
      unlock
      reopen
      Log.error("a figure cannot be kept", e)
    end
    private_class_method :quietly

    # A file that could not be written keeps its lock, since what was not written is tried once more before the lock is
    # given back. Whoever opens the file anew would wait for that lock for ever, unless the file is closed, which not
    # even its metric may know any more.
    def unlock
      values = File.join(directory, "values", "")
      ObjectSpace.each_object(File) do |file|
        file.close if !file.closed? && file.path.start_with?(values)
      rescue SystemCallError, IOError
        next # It is closed all the same, without what could not be written.
      end
    end
    private_class_method :unlock
  end
end
