# frozen_string_literal: true

module Bench
  # Measures importing files of each kind into one MariaDB, one after the other: every kind finds what the ones before
  # have left.
  class Files
    SEED = 2026
    KINDS = { "profiles with 7 values" => "profiles", "events as CSV" => "events", "events as JSON lines" => "events",
              "attribute updates" => "events", "consents" => "events", "updates and consents mixed" => "events",
              "links of visitors to customers" => "events", "everything mixed" => "events" }.freeze
    private_constant :SEED, :KINDS

    # @param directory [String] where this database lives; removed first
    # @param rows [Integer] of each file
    def initialize(directory, rows)
      @directory = directory
      @installation = Installation.new(directory)
      @rows = rows
      @random = Random.new(SEED)
    end

    # @yieldparam name [String]
    # @yieldparam first [Float] rows a second
    # @yieldparam again [Float] the same of the same file again
    # @yieldparam outcome [String]
    # @return [void]
    def each
      @installation.during do
        KINDS.each_with_index do |(name, kind), index|
          path = File.join(@directory, "file-#{index}.#{index < 2 ? "csv" : "jsonl"}")
          write(path, name)
          (first, import), (again,) = Array.new(2) { import(kind, path) }
          yield name, first, again, "#{import.stored} stored, #{import.rejected} rejected"
        end
      end
    end

    private

    def import(kind, path)
      import = EstrelServer::Import.create!(kind: kind, file_name: File.basename(path), path: path, mapping: {})
      _, seconds = Clock.timed { EstrelServer::Importing::FileImporter.new(import).run }
      [@rows / seconds, import]
    end

    def write(path, name)
      File.open(path, "w") do |file|
        file.puts(HEADS[name]) if HEADS.key?(name)
        @rows.times { |index| file.puts(line(name, index)) }
      end
    end

    HEADS = { "profiles with 7 values" => "customer,plan,city,born,points,newsletter,level,since",
              "events as CSV" => "id,type,subject,time,distance_km,bike" }.freeze
    private_constant :HEADS

    def line(name, index)
      case name
      when "profiles with 7 values"
        [index, "plan #{index % 5}", "city #{index % 300}", "19#{10 + (index % 80)}-03-04", index % 997, true,
         index % 7, "2025-0#{1 + (index % 9)}-11"].join(",")
      when "events as CSV"
        ["c#{index}", "ride_ended", customer, time, (@random.rand * 12).round(2), "B#{index % 900}"].join(",")
      else JSON.generate(message(name, index))
      end
    end

    def message(name, index)
      case name
      when "events as JSON lines" then event("j#{index}", index.even? ? customer : visitor)
      when "attribute updates" then attributes("a#{index}")
      when "consents" then consent("k#{index}")
      when "updates and consents mixed" then index.even? ? attributes("m#{index}") : consent("m#{index}")
      when "links of visitors to customers" then link("l#{index}")
      else [event("x#{index}", visitor), attributes("x#{index}"), consent("x#{index}"),
            link("x#{index}")][@random.rand(4)]
      end
    end

    def customer = "customer:#{@random.rand(@rows)}"

    def visitor = "visitor:#{@random.rand(@rows)}"

    def time = Time.at(1_735_689_600 + @random.rand(50_000_000)).utc.iso8601

    def fact(id, type, subject, data)
      { specversion: "1.0", id: id, source: "bench", type: type, subject: subject, time: time, data: data }
    end

    def event(id, subject)
      fact(id, "trip_planned", subject, { distance_km: (@random.rand * 12).round(2), bike: "B7" })
    end

    def attributes(id) = fact(id, "estrel.attributes", customer, { plan: "plan #{@random.rand(5)}" })

    def consent(id)
      fact(id, "estrel.consent", customer, { channel: "email", given: @random.rand < 0.8, evidence: "form" })
    end

    # A visitor to one customer of two devices; one in fifty is shared.
    def link(id)
      number = @random.rand(@rows)
      owner = @random.rand < 0.02 ? customer : "customer:#{number / 2}"
      fact(id, "estrel.link", "visitor:#{number}", { same_as: owner })
    end
  end
end
