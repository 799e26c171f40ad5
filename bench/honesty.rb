# frozen_string_literal: true

require "tmpdir"
Dir[File.join(__dir__, "../core/spec/support/*.rb")].each { |file| require file }

module Bench
  # How often verdicts are wrong of which is known what is so: made-up histories through the real analyses.
  class Verdicts
    MATCHED = { "before and after, nothing done by it" => {}, "the same, riders leave" => { leaves: 0.01 },
                "the same, the season swings" => { season: 0.5 },
                "the same, a tenth more rides" => { gain: 0.1 } }.freeze
    PLANS = { "a plan over 8 runs, nothing done by it" => 0.0, "the same, more rides for a week" => 0.15,
              "the same, fewer" => -0.1 }.freeze
    SKEWED = { "sums, 5% spend, 900 and 100" => [[900, 100], 0.05], "sums, 5% spend, 450 and 450" => [[450, 450], 0.05],
               "sums, 30% spend, 900 and 100" => [[900, 100], 0.3] }.freeze

    # @return [String] as {#each} tells it
    def self.line(name, held, bias)
      format("%-42<name>s %5.1<held>f%% held%<bias>s", name: name, held: held * 100,
                                                       bias: bias && format("   bias %+.4f", bias))
    end

    # @param times [Integer] histories of each kind
    def initialize(times)
      @times = times
    end

    # @yieldparam name [String]
    # @yieldparam held [Float] the share of 95% intervals that held the truth
    # @yieldparam bias [Float, nil] the mean of estimate less truth
    # @return [void]
    def each
      MATCHED.each { |name, history| yield name, *told(study(:matched, **history), history.fetch(:gain, 0.0)) }
      PLANS.each { |name, gain| yield name, *told(study(:plan, gain: gain)) }
      SKEWED.each { |name, (sizes, spends)| yield name, *told(sums(sizes, spends)) }
      yield "how long people stay inactive", *told(study(:inactive))
    end

    private

    def study(name, **history)
      (1..@times).map do |seed|
        Dir.mktmpdir { |directory| ::Honesty.public_send(name, 10_000 + seed, directory, **history) }
      end
    end

    def sums(sizes, spends)
      random = Random.new(3)
      Array.new(@times) { ::Honesty.skewed(random, sizes, 1.0, spends: spends) }.compact
    end

    def told(found, truth = nil)
      found = found.map { |one| { truth: truth, **one } }
      held = found.count { |one| one[:truth].between?(one[:low], one[:high]) }.fdiv(found.size)
      errors = found.filter_map { |one| one[:estimate] && (one[:estimate] - one[:truth]) }
      [held, errors.empty? ? nil : errors.sum / errors.size]
    end
  end
end
