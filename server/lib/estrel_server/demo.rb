# frozen_string_literal: true

require_relative "../../../demo/lib/ferrowick"

module EstrelServer
  # Fills an empty workspace with Ferrowick Bikes, through the importer everybody uses.
  class Demo
    POLICY = { activity: %w[bike_unlocked pass_bought ride_ended trip_planned], new_for: 30, active_within: 30,
               churned_after: 90 }.freeze
    AUDIENCES = {
      "Pay as you go, riding far, no pass" => { "all" => [
        { "attribute" => { "name" => "plan", "compare" => "is", "value" => "pay as you go" } },
        { "did" => { "event" => "ride_ended", "count" => { "at_least" => 3 }, "window" => { "last_days" => 30 },
                     "where" => [{ "property" => "distance_km", "compare" => "greater", "value" => 5 }] } },
        { "did" => { "event" => "pass_bought", "count" => { "exactly" => 0 }, "window" => { "last_days" => 60 } } }
      ] },
      "Dormant commuters" => { "all" => [
        { "attribute" => { "name" => "plan", "compare" => "is", "value" => "monthly pass" } },
        { "lifecycle" => { "is" => ["dormant"] } }
      ] },
      "Met the broken docks" => { "all" => [
        { "did" => { "event" => "fault_reported", "window" => { "from" => "2026-07-06", "to" => "2026-07-26" },
                     "where" => [{ "property" => "quarter", "compare" => "is", "value" => "Tannery Quay" }] } }
      ] }
    }.freeze

    # @param settings [Settings]
    # @param say [#call] takes a line about what is being done
    def initialize(settings, say)
      @settings = settings
      @say = say
    end

    # @return [void]
    def fill_if_empty
      return if Profile.exists? || Import.exists?

      @say.call("Making the demo: Ferrowick Bikes, fifteen months of riding…")
      Workspace.current.update!(time_zone: Ferrowick::TIME_ZONE)
      import(generate)
      @say.call("Building the ledger…")
      LedgerBuilder.new(EstrelServer.ledger, @settings).refresh
      LifecyclePolicy.new(name: LifecyclePolicy::DEFAULT_NAME, **POLICY).save!
      keep_audiences
    end

    private

    def generate
      directory = File.join(@settings.var, "demo")
      FileUtils.mkdir_p(directory)
      Ferrowick.new.write(directory)
      directory
    end

    def import(directory)
      { "profiles" => { "handles" => ["loyalty"] }, "events" => {} }.each do |kind, mapping|
        path = File.join(directory, "#{kind}.jsonl.gz")
        import = Import.create!(kind: kind, file_name: File.basename(path), path: path, mapping: mapping)
        Importing::FileImporter.new(import, @settings).run
        raise Error, "the demo could not be imported: #{import.error}" unless import.state == "done"

        @say.call("Imported #{import.stored} #{kind}.")
      end
    end

    def keep_audiences
      catalogue = EstrelServer.ledger.current.catalogue
      AUDIENCES.each do |name, json|
        Audience.create!(name: name).keep(Estrel::Audience::Definition.parse(json, catalogue: catalogue))
      end
    end
  end
end
