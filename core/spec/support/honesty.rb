# frozen_string_literal: true

# Studies of made-up histories, each asked once of the real code: what it says, and what is so.
module Honesty
  RODE = { "event" => "ride_ended", "measure" => "people" }.freeze
  # How long people stay inactive: after so many days.
  DAYS = 5

  module_function

  # @return [Hash{Symbol => Object}] `estimate`, `low`, `high`, and whether the `placebo` shows a difference
  def matched(seed, directory, **history)
    found = ask("before-after", question, MadeUp.riders(seed, **history), directory).picture[:matched]
    before = found[:placebo][:difference]
    { **found[:difference], placebo: !before.nil? && !0.between?(before[:low], before[:high]) }
  end

  # Whoever buys a pass for the first time from the 35th to the 75th day, and rides before and after.
  def question
    { "first" => { "event" => "pass_bought" }, "metric" => { "event" => "ride_ended" }, "before" => 14, "after" => 14,
      "from" => MadeUp.date(35).iso8601, "to" => MadeUp.date(75).iso8601 }
  end

  # @return [Hash{Symbol => Object}] `estimate`, `low`, `high`, the `truth`, and whether the split is said to be `amiss`
  def plan(seed, directory, **history)
    plan = MadeUp.plan(seed, **history)
    stored = Estrel::Analyses::Stored.new
    stored.define_singleton_method(:runs_of) { |_| plan.runs }
    answer = ask("export-effect", { "export" => 1, "days" => MadeUp::Plan::DAYS, "metric" => RODE }, plan.population, directory, stored: stored)
    { **answer.picture[:difference].to_h, truth: plan.truth, amiss: answer.finding.include?("No verdict") }
  end

  # @return [Hash{Symbol => Float}, nil] `low`, `high` of the difference of sums and the `truth`, and the same of their
  #   ratio; nil where nobody of one group spent anything
  def skewed(random, sizes, lift, spends: 0.05, log_sd: 1.5)
    factors = [lift, 1.0]
    values = sizes.zip(factors).map { |size, factor| Polars::Series.new(Array.new(size) { random.rand < spends ? factor * Math.exp(log_sd * normal(random)) : 0.0 }) }
    cut = Estrel::Statistics::SkewedMeans.cut(values)
    groups = values.map { |own| Estrel::Statistics::SkewedMeans.of(own.clip(-cut, cut)) }
    difference = Estrel::Statistics::SkewedMeans.difference(*groups) or return
    ratio = Estrel::Statistics::SkewedMeans.ratio(*groups)
    means = factors.map { |factor| spends * cut_mean(factor, log_sd, cut) }
    { **difference, truth: means[0] - means[1], ratio: means[0] / means[1], ratio_low: ratio[:low], ratio_high: ratio[:high] }
  end

  # @return [Hash{Symbol => Object}] `low` and `high` of the share of gaps that last longer, the `truth`, and the `naive`
  #   interval of gaps that would be independent
  def inactive(seed, directory, people: 150)
    with(MadeUp.riders(seed, people: people, late: 0.0), directory) do |ledger|
      durations = Estrel::Lifecycle::Durations.new(Estrel::Lifecycle.new(ledger, MadeUp::RULES), Estrel::Calendar.number(MadeUp.date(89)))
      survival = Estrel::Lifecycle::Durations.estimates(durations.of(Estrel::Lifecycle::Grouping.everybody(ledger)), 1).first
      point, naive = [survival.points, survival.whole.points].map { |points| points.reverse.find { |one| one.t <= DAYS } }
      { low: point.low, high: point.high, truth: truth, naive: [naive.low, naive.high] }
    end
  end

  # Of so many people that chance hardly matters.
  def truth
    @truth ||= begin
      gaps = MadeUp.ride_days(Random.new(0), people: 20_000).flat_map { |days| [*days.each_cons(2).map { |one, other| [other - one, true] }, *(days.any? ? [[89 - days.last, false]] : [])] }
      ended, censored = gaps.partition(&:last)
      Estrel::KaplanMeier.new(ended.map(&:first).tally, censored.map(&:first).tally).survival(DAYS)
    end
  end

  def ask(name, question, population, directory, **more)
    with(population, directory) do |ledger|
      workspace = Estrel::Analyses::Workspace.new(ledger: ledger, as_of: MadeUp.date(89), today: MadeUp.date(90), rules: MadeUp::RULES, **more)
      Estrel::Analyses.named(name).ask(question, workspace).over
    end
  end

  def with(population, directory) = yield(population.write(directory))

  # The mean of what is log-normal, cut.
  def cut_mean(factor, log_sd, cut)
    at = Math.log(cut / factor)
    below = ->(value) { 0.5 * Math.erfc(-value / Math.sqrt(2)) }
    (factor * Math.exp(log_sd * log_sd / 2) * below.call((at - (log_sd * log_sd)) / log_sd)) + (cut * (1 - below.call(at / log_sd)))
  end

  def normal(random) = Math.sqrt(-2 * Math.log(1 - random.rand)) * Math.cos(2 * Math::PI * random.rand)
end
