# frozen_string_literal: true

module EstrelServer
  # Devices beside people: the visitor identifiers that active people hold. Which of several devices somebody used is
  # not told by an event, so all of them count.
  class ActiveDevices
    # @param lifecycle [Estrel::Lifecycle]
    def initialize(lifecycle)
      @lifecycle = lifecycle
    end

    # @param steps [Estrel::Lifecycle::Steps]
    # @return [Hash] per window of {Estrel::Lifecycle::ActivePeople::WINDOWS} and for "total" devices at each date
    def trailing(steps)
      grouping = by_number
      found = Estrel::Lifecycle::ActivePeople.new(@lifecycle).trailing(steps, grouping)
      windows = [*Estrel::Lifecycle::ActivePeople::WINDOWS, "total"]
      windows.to_h { |window| [window, (1...steps.size).map { |date| devices(found, grouping.labels, window, date) }] }
    end

    private

    def devices(found, numbers, window, date)
      numbers.each_with_index.sum { |number, group| number * found[group][window][date] }
    end

    # People by how many devices they hold; those who hold none are left out.
    def by_number
      ids = @lifecycle.ledger.profiles["profile_id"]
      held = Identifier.joins(:identifier_kind).where(identifier_kinds: { name: "visitor" }).group(:profile_id).count
      numbers = held.values.uniq.sort
      codes = ids.to_a.map { |id| numbers.index(held[id]) }
      Estrel::Lifecycle::Grouping.new(@lifecycle.ledger, numbers, Polars::Series.new("group", codes, dtype: Polars::Int32),
                                      key: [:devices, held.hash])
    end
  end
end
