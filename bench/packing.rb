# frozen_string_literal: true

module Bench
  # Measures what packing the properties of old events saves in the database, and what it costs; and at the end how long
  # it takes to remove the events of the oldest month.
  class Packing
    # @param directory [String] where this database lives; removed first
    # @param profiles [Integer]
    # @param events [Integer]
    def initialize(directory, profiles:, events:)
      @profiles = profiles
      @events = events
      @installation = Installation.new(directory, "ESTREL_DATABASE_MEMORY_MB" => "4096")
      @packing = EstrelServer::Workers::PropertyPacking.new
    end

    # @return [void] prints what it measures
    def run
      @installation.during do
        Filling.new(@profiles, @events) { |random| properties(random) }.carry_out
        say("in rows", *measured)
        times = pack
        puts format("packed %<events>d at a time: median %<median>.2f s, longest %<longest>.2f s, all %<all>.1f s",
                    events: EstrelServer::Workers::PropertyPacking::EVENTS, median: times[times.size / 2],
                    longest: times.last, all: times.sum)
        say("packed", *measured)
        puts format("unpacked in %<seconds>.1f s", seconds: Clock.timed { nil until @packing.undo.zero? }.last)
        remove
      end
    end

    private

    # What a shop says of something that was bought: eight properties, 240 bytes.
    def properties(random)
      { order: random.bytes(8).unpack1("H*"), sku: "SKU-#{random.rand(20_000)}",
        category: "category #{random.rand(40)}", price: random.rand(20_000) / 100.0, quantity: 1 + random.rand(4),
        currency: "EUR", page: "https://shop.example/products/#{random.rand(20_000)}?from=list",
        campaign: "campaign #{random.rand(60)}" }
    end

    def pack
      times = []
      loop do
        count, seconds = Clock.timed { @packing.step(Time.now.utc + 1) }
        break times.sort if count.zero?

        times << seconds
      end
    end

    def remove
      workspace = EstrelServer::Workspace.current
      oldest = workspace.calendar.day_of((EstrelServer::Event.minimum(:occurred_at).to_r * 1_000_000).to_i) >> 1
      workspace.update!(kept_months: ((workspace.today.year - oldest.year) * 12) + workspace.today.month - oldest.month)
      removed, seconds = Clock.timed { EstrelServer::Workers::EventRetention.new.carry_out }
      puts format("removed %<events>d events of the oldest month in %<seconds>.1f s, %<each>.2f s a block",
                  events: removed, seconds: seconds,
                  each: seconds * EstrelServer::Workers::EventRetention::BLOCK / @events)
    end

    # @return [Array] bytes of rows and of blocks, and how long the ledger takes to be built anew
    def measured
      builder = EstrelServer::LedgerBuilding::Builder.new
      [bytes("events"), bytes("property_blocks"), Clock.timed { builder.refresh(rebuild: true) }.last]
    end

    # Without the pages that stand empty, which the next events fill.
    def bytes(table)
      connection = EstrelServer::Record.connection
      connection.execute("OPTIMIZE TABLE #{table}")
      connection.select_value("SELECT data_length + index_length FROM information_schema.tables " \
                              "WHERE table_schema = DATABASE() AND table_name = '#{table}'")
    end

    def say(what, events, blocks, seconds)
      puts format("%<what>s: events %<events>d MB, blocks %<blocks>d MB, ledger built in %<seconds>.1f s",
                  what: what, events: events >> 20, blocks: blocks >> 20, seconds: seconds)
    end
  end
end
