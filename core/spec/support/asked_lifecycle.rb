# frozen_string_literal: true

# What one seed of the random lifecycles asks: the population, its reference, dates, a later day, and the ledger with the
# lifecycle over it.
AskedLifecycle = Struct.new(:population, :reference, :steps, :later, :lifecycle, :ledger) do
  def dates = steps.dates

  def everybody = Estrel::Lifecycle::Grouping.everybody(ledger)
end
