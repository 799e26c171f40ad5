# frozen_string_literal: true

module EstrelServer
  # Devices beside people: the visitor identifiers that active people hold. Which of several devices somebody used is not
  # told by an event, so each that had become known by then counts.
  class ActiveDevices
    # @param lifecycle [Estrel::Lifecycle]
    def initialize(lifecycle)
      @lifecycle = lifecycle
    end

    # @param steps [Estrel::Lifecycle::Steps]
    # @return [Hash] per window of {Estrel::Lifecycle::ActivePeople::WINDOWS} and for "total" devices at each date
    def trailing(steps)
      Estrel::Lifecycle::ActivePeople.new(@lifecycle).trailing(steps,
                                                               Estrel::Lifecycle::Grouping.everybody(@lifecycle.ledger), weights: held)
                                     .first.transform_values do |counts|
        counts.drop(1)
      end
    end

    private

    def held
      rows = Identifier.joins(:identifier_kind).where(identifier_kinds: { name: "visitor" }).group(:profile_id).count
      Polars::DataFrame.new({ "profile_id" => rows.keys, "weight" => rows.values },
                            schema_overrides: { "profile_id" => Polars::Int64, "weight" => Polars::Int64 })
    end
  end
end
