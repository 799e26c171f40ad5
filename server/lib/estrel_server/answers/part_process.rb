# frozen_string_literal: true

module EstrelServer
  module Answers
    # A process that answers questions to parts of a large ledger, for the {Pool} of the web processes, those of this
    # machine and, where there are several, of all. It takes one part after the other, of every question in turn, and
    # knows neither the database nor who asks.
    class PartProcess
      # @param slot [Integer, String] tells the processes of this machine apart, see {Pool.path}
      # @param settings [Settings]
      # @param held [Estrel::Ledger::Held] the pieces of a ledger that are on this machine
      def initialize(slot, settings = EstrelServer.settings, held: Estrel::Ledger::Held::ALL)
        @path = Pool.path(settings, slot)
        @threads = [Etc.nprocessors / settings.answering_processes, 1].max
        @settings = settings
        @held = held
        @results = Estrel::Ledger::ResultCache.new(limit: settings.remembered_mb * 1_000_000)
        @ledgers = {}
      end

      # Answers until the process ends.
      def run
        listener = listen
        trap("TERM") { exit }
        warm_up
        network = Parts::Network.of(@settings)
        holder = network && Parts::Holder.new(network, @settings.parts_held)
        garbage = Garbage.new
        askers = []
        loop do
          readable, = IO.select([listener, holder&.io, *askers].compact, nil, nil, garbage.wait)
          next garbage.idle unless readable

          readable.each do |io|
            case io
            when listener then askers << listener.accept
            when holder&.io then holder.take { |part, task, withdrawn| answer(part, task, withdrawn) }
            else askers.delete(io).close unless serve(io)
            end
          end
          garbage.answered
        end
      ensure
        FileUtils.rm_f(@path)
      end

      private

      def listen
        FileUtils.mkdir_p(File.dirname(@path), mode: 0o700)
        FileUtils.rm_f(@path)
        UNIXServer.new(@path)
      end

      # The first question does not wait for code, threads and files. There are as many threads as the other processes
      # leave cores for.
      def warm_up
        ENV["POLARS_MAX_THREADS"] ||= @threads.to_s
        Estrel.eager_load
        ledger = ledger(Workspaces::FIRST)
        name = ledger.current_manifest_or_nil or return
        ledger.referred([name, []]).profiles.lazy.select([Polars.col("profile_id").max]).collect
      rescue Estrel::Ledger::Missing
        nil # nothing to be asked about yet
      end

      # @return [Boolean] whether the one who asks is still there
      def serve(io)
        part, task = Framing.read(io)
        return false unless part

        Framing.write(io, answer(part, task, -> { gone?(io) }))
        true
      rescue SystemCallError, IOError
        false
      end

      def answer(part, task, given_up)
        task = Estrel::Transit.load(task)
        # One that nobody waits for any more ends its process in the end, if it does not notice.
        seconds = task[:seconds] + QuestionLimit::GRACE
        Log.with(**task[:log].to_h) { Deadline.within(seconds) { answer_task(part, task, given_up) } }
      end

      def answer_task(part, task, given_up)
        analysis = task[:analysis]
        budget = Estrel::Budget.new(bytes: task[:bytes], cancelled: given_up)
        ledger = ledger(task[:workspace]).referred(task[:ledger])
        workspace = analysis.workspace.put_to(ledger, parts: task[:parts], budget: budget)
        budget.check
        [:found, analysis.asked_of(workspace.part(part), task[:found])]
      rescue Estrel::Ledger::Missing
        [:missing]
      rescue Estrel::Error => e
        [:raised, e]
      rescue StandardError => e
        Log.error("a part of a question could not be answered", e)
        [:failed]
      end

      def ledger(workspace)
        directory = @settings.of(workspace).ledger_directory
        @ledgers[workspace] ||= Estrel::Ledger.new(directory, shelves: true, held: @held, results: @results)
      end

      # Nothing is sent while an answer is waited for.
      def gone?(asker) = asker.wait_readable(0) && asker.eof?
    end
  end
end
