# frozen_string_literal: true

module EstrelServer
  module Answers
    # The answer to a question that an analysis is asked: kept, or computed part by part.
    class AnalysisAnswer
      CORE = File.join(ROOT, "core/lib")
      private_constant :CORE

      # @return [String] names the core that computes the answers: another one may compute or tell them otherwise
      def self.core
        @core ||= Digest::SHA256.hexdigest(Dir[File.join(CORE, "**/*.*")].map { |file| File.read(file) }.join)
      end

      # @param analysis [Estrel::Analyses::Analysis]
      # @param generation [Estrel::Ledger::Generation] with which the question began and ends
      # @param settings [Settings]
      # @raise [Estrel::Analyses::Invalid]
      def initialize(analysis, generation, settings = EstrelServer.settings)
        @analysis = analysis
        @settings = settings
        @kept = Kept.new(settings.answers_directory, generation.manifest_name)
        # Whoever may not ask about everything is answered from a smaller catalogue.
        @key = [self.class.core, analysis.key, Digest::SHA256.hexdigest(JSON.generate(analysis.workspace.catalogue.to_h))]
      end

      # @yield [progress] how far it is: `done` parts of `all`, and `what` is being done
      # @return [String] JSON
      # @raise [Estrel::Budget::Exceeded]
      def json(&block)
        tell = block || ->(_) {}
        @kept.fetch(@key, waiting: @analysis.workspace.budget.method(:check), progress: tell) do |progress|
          answer = @analysis.over(asker) do |done, all, what|
            progress.call({ "done" => done, "all" => all, "what" => what })
          end
          JSON.generate(answer.to_h)
        end
      end

      private

      def asker = Pool.worth?(@analysis.workspace.ledger) ? Pool.new(@settings) : Estrel::Analyses::InTurn
    end
  end
end
