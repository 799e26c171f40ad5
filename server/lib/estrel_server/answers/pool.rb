# frozen_string_literal: true

module EstrelServer
  module Answers
    # Puts a question to the parts of a large ledger in several processes at once, see {PartProcess}. A part goes to the
    # same process each time, which remembers what it has computed. Where there are other machines, all that hold parts
    # are asked first, see {Parts::Elsewhere}. What no process takes is asked here. Lists have a process of their own,
    # so that they do not wait for heavy questions.
    class Pool
      # The slot of the process for lists.
      LISTS = "lists"
      # Seconds between looks whether anybody still waits for the answer.
      PAUSE = 0.1

      # @param ledger [Estrel::Ledger::Readable]
      # @param settings [Settings]
      # @return [#ask] a pool, where its parts are worth the way to another process
      def self.asker(ledger, settings)
        large = ledger.facts.fetch("event_count", 0) >= settings.parts_from_events
        large ? new(settings) : Estrel::Analyses::InTurn
      end

      class << self
        # @return [Boolean] whether this process asks for lists only
        attr_accessor :for_lists
      end

      # @param settings [Settings]
      # @param slot [Integer, String] a number, or {LISTS}
      # @return [String] where a process is reached
      def self.path(settings, slot) = File.join(settings.answering_directory, "#{slot}.sock")

      # @param settings [Settings]
      # @param elsewhere [Parts::Elsewhere, nil] nil where there are no other machines
      def initialize(settings = EstrelServer.settings, elsewhere = Parts::Elsewhere.of(settings))
        @settings = settings
        @elsewhere = elsewhere
      end

      # See {Estrel::Analyses::InTurn#ask}; the block is told how many parts have been answered.
      #
      # @raise [Estrel::Budget::Exceeded]
      def ask(analysis, found, &)
        round = Round.new(analysis, found, analysis.workspace.for_takers(takers), of: @settings.workspace)
        round.ask_elsewhere(@elsewhere, &) if @elsewhere
        processes = slots.map { |slot| connect(slot) }
        begin
          round.ask_processes(processes, &)
        ensure
          processes.each { |process| process&.close }
        end
        round.ask_here(&)
      end

      private

      # With other machines, in as many parts on each, since what is remembered of a part is of use for the same only.
      def takers = [slots.size, *(@settings.parts if @elsewhere)].max

      def slots = Pool.for_lists ? [LISTS] : [*0...@settings.answering_processes]

      def connect(slot)
        UNIXSocket.new(Pool.path(@settings, slot))
      rescue SystemCallError
        nil # it starts, or does not run here
      end

      # One question to every part.
      class Round
        # @param analysis [Estrel::Analyses::Analysis]
        # @param found [Array<Object>]
        # @param workspace [Estrel::Analyses::Workspace] in its parts
        # @param of [String] name of the installation's workspace whose ledger it is
        def initialize(analysis, found, workspace, of:)
          @of = of
          @analysis = analysis
          @found = found
          @workspace = workspace
          @parts = workspace.parts
          @answers = {}
        end

        # @param elsewhere [Parts::Elsewhere]
        # @return [void]
        def ask_elsewhere(elsewhere)
          kind = [@analysis.class.address, @found.size, @parts.size]
          @answers = elsewhere.ask(task, places, kind) do |answered|
            @workspace.budget.check
            yield(answered, @parts.size)
          end
          Figures.count(:parts_total, { answered: "elsewhere" }, by: @answers.size)
          Figures.count(:parts_total, { answered: "here" }, by: @parts.size - @answers.size)
        end

        # @param processes [Array<UNIXSocket, nil>] by slot; nil where there is none
        # @return [void]
        def ask_processes(processes, &)
          left = @parts.each_index.reject { |index| @answers.key?(index) }
          @waiting = left.group_by { |index| processes[slot(index, processes.size)] }
          @waiting.delete(nil)
          asked = @waiting.keys.to_h { |process| [process, send_next(process)] }.compact
          until asked.empty?
            @workspace.budget.check
            yield(@answers.size, @parts.size)
            readable, = IO.select(asked.keys, nil, nil, PAUSE)
            (readable || []).each { |process| asked.delete(process) unless receive(process, asked) }
          end
        end

        # @return [Array<Object>] what each part has found
        def ask_here
          @parts.map.with_index do |part, index|
            @answers.fetch(index) do
              @workspace.budget.check
              yield(@answers.size, @parts.size)
              @answers[index] = @analysis.asked_of(part, @found)
            end
          end
        end

        private

        def task = @task ||= Estrel::Transit.dump(asked)

        def asked
          { analysis: @analysis, found: @found, workspace: @of, ledger: @workspace.ledger.reference, parts: @parts.size,
            bytes: @workspace.budget.bytes, seconds: @workspace.budget.seconds, log: Log.context }
        end

        # Parts in pieces of the ledger go to whoever holds the piece; where it lies in one, all have it.
        def places
          pieces = @workspace.ledger.pieces.size
          @parts.each_index.map { |index| pieces == 1 ? index : index / (@parts.size / pieces) }
        end

        # The first parts have more events than the last ones where people who came early have, so every other round of
        # the processes goes backwards.
        def slot(index, size)
          round, place = index.divmod(size)
          round.even? ? place : size - 1 - place
        end

        # @return [Integer, nil] the part that has been sent; nil where there is none left
        def send_next(process)
          part = @waiting.fetch(process).shift
          Framing.write(process, [part, task]) if part
          part
        rescue SystemCallError
          nil
        end

        # @return [Integer, nil] the next part that this process is at
        def receive(process, asked)
          kind, answer = Framing.read(process)
          case kind
          when :found then @answers[asked.fetch(process)] = answer
          when :raised then raise answer
          else return # it has ended, or cannot read the ledger: the rest is asked here
          end
          asked[process] = send_next(process)
        end
      end
      private_constant :Round
    end
  end
end
