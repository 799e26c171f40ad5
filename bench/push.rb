# frozen_string_literal: true

require_relative "../stand_in/lib/ferrowick_post"

module Bench
  # Pushes an audience to the messaging stand-in: this process is the worker, the stand-in and the database are
  # processes of their own.
  class Push
    BATCHES = [500, 2000].freeze
    AS_OF = Date.new(2026, 5, 31)

    # @param directory [String] where this database lives; removed first
    # @param people [Integer]
    def initialize(directory, people:)
      @directory = directory
      @people = people
      @installation = Installation.new(directory, "ESTREL_STAND_IN_PORT")
    end

    # @return [void] prints what it measures
    def run
      @installation.during do
        fill
        @installation.beside("stand-in") { BATCHES.each { |size| measure(size) } }
      end
    end

    private

    def fill
      path = File.join(@directory, "events.jsonl")
      File.open(path, "w") { |file| @people.times { |number| file.puts(line(number)) } }
      import = EstrelServer::Import.create!(kind: "events", file_name: "events.jsonl", path: path, mapping: {},
                                            bytes_total: File.size(path))
      EstrelServer::Importing::FileImporter.new(import).run
      EstrelServer::LedgerBuilding::Builder.new.refresh
    end

    def line(number)
      %({"specversion":"1.0","id":"#{number}","source":"bench","type":"visit","subject":"customer:#{number}",) +
        %("time":"2026-05-30T10:00:00Z","data":{}})
    end

    def measure(size)
      export = made(size)
      run = EstrelServer::ExportRun.start(export, as_of: AS_OF, rule_set: nil, queued: false)
      _, seconds = Clock.timed { EstrelServer::Exporting::Runner.new(run).run }
      puts format("%<size>d people in a message: %<people>d people in %<seconds>.1f s, %<rate>d people/s, %<state>s",
                  size: size, people: run.row_count, seconds: seconds, rate: run.row_count / seconds, state: run.state)
    end

    def made(size)
      catalogue = EstrelServer.ledger.current.catalogue
      audience = EstrelServer::Audience.create!(name: "Everybody #{size}")
      audience.keep(EstrelServer::Answers::Asking.definition({ "all" => [] }, catalogue), catalogue)
      rules = Estrel::Exports::Settings.parse({ "columns" => [{ "take" => "identifier:customer" }] }).to_h
      EstrelServer::Export.create!(name: "Bench #{size}", audience: audience.reload, destination: destination(size),
                                   rules: rules)
    end

    def destination(size)
      @secret ||= begin
        FerrowickPost.connect(EstrelServer::Database.new(EstrelServer.settings).stand_in_connection)
        FerrowickPost::ServiceSetting.current.secret
      end
      EstrelServer::Destination.create!(name: "Stand-in #{size}", kind: "webhook", secret: @secret,
                                        settings: { "url" => "#{@installation.address}/batches", "batch_size" => size })
    end
  end
end
