# frozen_string_literal: true

module Bench
  # A data set so many times over, each copy with people of its own: for sizes that do not fit into memory while they
  # are put in order.
  class Copies
    # What tells the people, events and devices of one copy from those of the next.
    APART = { "event_id" => 100_000_000_000, "device" => 1_000_000_000 }.freeze
    private_constant :APART

    # @param original [Estrel::Ledger::Generation]
    # @param count [Integer]
    def initialize(original, count)
      @original = original
      @count = count
    end

    # @param directory [String] of the ledger
    # @return [void]
    def write_ledger(directory)
      writer = Estrel::Ledger::Writer.new(directory, calendar: @original.calendar)
      types = @original.catalogue.event_types.values
      types.each { |type| put { writer.put_sorted_events(type.id, copied(@original.events(type.name))) } }
      %i[spine attribute_history profiles reach origins renamed].each do |name|
        put { writer.public_send(:"put_#{name}", copied(@original.public_send(name))) }
      end
      writer.commit(catalogue: @original.catalogue, facts: facts)
    end

    private

    # Ruby does not see the memory behind what has been written.
    def put
      yield
      GC.start
    end

    def copied(frame)
      people = @original.base_size
      Polars.concat(Array.new(@count) do |copy|
        shifts = { "profile_id" => people, **APART }.slice(*frame.columns)
        frame.with_columns(shifts.map do |name, step|
          (Polars.col(name) + (copy * step)).cast(frame[name].dtype).alias(name)
        end)
      end)
    end

    def facts = { **@original.facts, "event_count" => @original.facts.fetch("event_count") * @count }
  end
end
