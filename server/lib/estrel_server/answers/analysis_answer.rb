# frozen_string_literal: true

module EstrelServer
  module Answers
    # The answer to a question that an analysis is asked: kept, or computed part by part.
    class AnalysisAnswer
      # Significant digits of the numbers of an answer.
      DIGITS = 12

      # @param analysis [Estrel::Analyses::Analysis]
      # @param generation [Estrel::Ledger::Generation] with which the question began and ends
      # @param settings [Settings]
      # @raise [Estrel::Analyses::Invalid]
      def initialize(analysis, generation, settings = EstrelServer.settings)
        @analysis = analysis
        @settings = settings
        @generation = generation.manifest_name
        @kept = Kept.new(settings.answers_directory, @generation)
        # Whoever may not ask about everything is answered from a smaller catalogue.
        @key = [Estrel::EDITION, analysis.key, Digest::SHA256.hexdigest(JSON.generate(analysis.workspace.catalogue.to_h))]
      end

      # @return [String] the same for the same answer alone
      def tag = Digest::SHA256.hexdigest([@generation, @key].inspect)

      # @return [String, nil] JSON, where it has been computed
      def kept = @kept.read(@key)

      # @yield [progress] how far it is: `done` parts of `all`, and `what` is being done
      # @return [String] JSON
      # @raise [Estrel::Budget::Exceeded]
      def json(&block)
        json, seconds = Figures.timed { fetch(block || ->(_) {}) }
        Figures.time(:question_seconds, seconds, of_analysis)
        json
      rescue Estrel::Budget::Exceeded
        Figures.count(:questions_refused_total, of_analysis)
        raise
      end

      private

      def of_analysis = { analysis: @analysis.class.address }

      def fetch(tell)
        @kept.fetch(@key, waiting: @analysis.workspace.budget.method(:check), progress: tell) do |progress|
          answer = @analysis.over(asker) do |done, all, what|
            progress.call({ "done" => done, "all" => all, "what" => what })
          end
          JSON.generate(rounded(answer.to_h))
        end
      end

      # Without the digits that only show how a computer divides; they would make up a third of what is sent.
      def rounded(value)
        case value
        when Hash then value.transform_values { |one| rounded(one) }
        when Array then value.map { |one| rounded(one) }
        when Float then value.zero? || !value.finite? ? value : value.round(DIGITS - 1 - Math.log10(value.abs).floor)
        else value
        end
      end

      def asker = Pool.asker(@analysis.workspace.ledger, @settings)
    end
  end
end
