# frozen_string_literal: true

module Bench
  # What questions would take on several machines that hold parts of the ledger. Every part is asked here, one after the
  # other, and the processor's time is taken of each and of putting together, so that parts do not share the two cores.
  # On so many machines with one core each, the one that has most to do tells the time, and what is put together comes
  # after it.
  class Cluster
    QUESTIONS = Pool::QUESTIONS.slice("365 days of states", "activity, 365 days", "three events by plan, weeks",
                                      "retention, every week's first", "funnel, 8 steps ever", "visits, all").freeze
    # In as many parts as can be dealt to three and to eight.
    PARTS = 24
    MACHINES = [1, 3, 8].freeze
    private_constant :QUESTIONS, :PARTS

    # Asks the parts in turn, and takes the time of each.
    class Timed
      # @return [Array<Array<Float>>] of each round, the processor's seconds for each part
      attr_reader :rounds
      # @return [Integer] bytes that the parts' answers would travel as
      attr_reader :bytes

      def initialize
        @rounds = []
        @bytes = 0
      end

      # See {Estrel::Analyses::InTurn#ask}.
      def ask(analysis, found)
        times = []
        answers = analysis.workspace.parts.map do |part|
          answer, seconds = Cluster.processor { analysis.partial(part, found).tap { |one| @bytes += sent(one) } }
          times << seconds
          answer
        end
        @rounds << times
        answers
      end

      # @param machines [Integer]
      # @return [Float] seconds that the one with most to do needs, round by round
      def on(machines)
        rounds.sum { |times| (0...machines).map { |one| dealt(times, one, machines).sum }.max }
      end

      private

      def dealt(times, one, machines) = times.each_index.filter_map { |index| times[index] if index % machines == one }

      def sent(answer) = Estrel::Transit.dump(answer).bytesize
    end

    # @return [Array(Object, Float)] the block's result, and the seconds the processor was at it
    def self.processor
      started = Process.clock_gettime(Process::CLOCK_PROCESS_CPUTIME_ID)
      [yield, Process.clock_gettime(Process::CLOCK_PROCESS_CPUTIME_ID) - started]
    end

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
    end

    # @yieldparam name [String]
    # @yieldparam timed [Timed]
    # @yieldparam merging [Float] seconds for putting the parts' answers together
    # @yieldparam answering [Float] seconds for what is made of that, whatever the number of parts
    # @return [void]
    def each
      QUESTIONS.each do |name, (address, question)|
        workspace = Analyses.workspace(Estrel::Ledger.new(@directory).current, Questions::AS_OF).for_takers(PARTS)
        analysis = Analyses.ask(address, question, workspace).tap(&:key)
        timed = Timed.new
        found, seconds = Cluster.processor { analysis.collect(timed) }
        _, answering = Cluster.processor { analysis.answer(found) }
        yield name, timed, seconds - timed.rounds.sum(&:sum), answering
        GC.start
      end
    end
  end
end
