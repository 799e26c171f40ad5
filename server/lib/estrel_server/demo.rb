# frozen_string_literal: true

require_relative "../../../demo/lib/ferrowick"
require_relative "../../../stand_in/lib/ferrowick_post"

module EstrelServer
  # Fills an empty workspace with Ferrowick Bikes, through the importer everybody uses.
  class Demo
    RULE_SETS = {
      "Riders" => { "activity" => %w[bike_unlocked pass_bought ride_ended trip_planned], "new_for" => 30,
                    "active_within" => 30, "churned_after" => 90 },
      "Buyers" => { "activity" => %w[pass_bought], "new_for" => 30, "active_within" => 45, "churned_after" => 120 }
    }.freeze
    FILES = { "profiles" => ["profiles", { "custom_ids" => ["loyalty"] }], "events" => ["events", {}],
              "messages" => ["events", {}], "updates" => ["events", {}] }.freeze
    # What Ferrowick's people call their catalogue.
    NAMES = File.expand_path("../../../demo/catalogue.yaml", __dir__)
    SOURCES = { "app" => "the riders' app", "bike" => "locks and docks", "kiosk" => "where passes are sold",
                "web" => "the web site", "campaigns" => "what was sent and opened",
                "tram" => "the tram company" }.freeze
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

    NOTES = { Ferrowick::FARE_CHANGE => "Minutes cost half as much again",
              Ferrowick::BROKEN_DAYS.first => "Docks of Tannery Quay broken",
              Ferrowick::SPRING_CAMPAIGN => "Spring campaign" }.freeze
    SEASONS = { "before winter" => [nil, "2025-11-30"], "winter" => %w[2025-12-01 2026-02-28],
                "spring" => %w[2026-03-01 2026-05-31], "summer" => %w[2026-06-01 2026-08-31],
                "autumn" => ["2026-09-01", nil] }.freeze
    # Analyses, each by its address, its question as the address has it, and as it is asked.
    RIDES = [{ "event" => "ride_ended" }].freeze
    YEAR = { "from" => "-364", "step" => "week" }.freeze
    SAVED = {
      "Rides by quarter, week by week" =>
        ["trends", { "event" => "ride_ended", "by" => "event:quarter", "measure" => "times" },
         { "series" => RIDES, "measure" => "times", "by_event" => "quarter", **YEAR }],
      "Length of visits by plan" =>
        ["visits", { "shown" => "length", "by" => "attribute:plan" },
         { "unit" => "minutes", "by" => { "attribute" => "plan" }, **YEAR }],
      "From planning to riding" =>
        ["experience", { "event" => "trip_planned", "also" => JSON.generate(RIDES) },
         { "series" => [{ "event" => "trip_planned" }, *RIDES], "along" => "visit", "audiences" => [] }]
    }.freeze
    # A page: headings and words as they are, saved analyses with what is drawn of them, and an audience by name.
    PAGE = [
      ["heading", "Where the bikes are ridden"],
      ["analysis", "Rides by quarter, week by week"],
      ["text", "Tannery Quay fell in July, when its docks were broken. The riders who met the faults had news of the " \
               "repair on 27 July."],
      ["audience", "Met the broken docks"],
      ["heading", "Who rides, and how"],
      ["analysis", "Length of visits by plan", { "table" => "lengths", "figure" => "share" }],
      ["analysis", "From planning to riding", { "table" => "places", "figure" => "rate" }]
    ].freeze

    # Not to be contacted, and in the holdout of the one export there is.
    LISTED = %w[rider8@post.ferrowick.example rider56@post.ferrowick.example].freeze
    PLAN = {
      "columns" => [{ "take" => "identifier:customer" }, { "take" => "address", "as" => "to" },
                    { "take" => "attribute:plan" }, { "take" => "state" },
                    { "take" => "last", "event" => "ride_ended", "as" => "last_ride" },
                    { "take" => "sum", "event" => "pass_bought", "property" => "price", "as" => "spent" }],
      "channel" => "email", "messaged" => { "events" => ["message_received"], "days" => 60, "runs" => true },
      "guard" => 0.25
    }.freeze

    # @param settings [Settings]
    # @param say [#call] takes a line about what is being done
    def initialize(settings, say)
      @settings = settings
      @say = say
    end

    # @return [void]
    def fill_if_empty
      return if Profile.exists?

      @say.call("Making the demo: Ferrowick Bikes, fifteen months of riding…")
      Workspace.current.update!(time_zone: Ferrowick::TIME_ZONE)
      import(generate)
      describe
      @say.call("Building the ledger…")
      LedgerBuilding::Builder.new(EstrelServer.ledger, @settings).refresh
      keep_rule_sets
      keep_audiences
      keep_plan
      keep_notes
      keep_stand_in if @settings.stand_in
      # Where somebody has a password, nobody signs in without one.
      Workspace.current.update!(demo: Account.where.not(password_digest: nil).none?)
    end

    private

    def generate
      directory = File.join(@settings.var, "demo")
      FileUtils.mkdir_p(directory)
      Ferrowick.new.write(directory)
      directory
    end

    def import(directory)
      FILES.each do |name, (kind, mapping)|
        path = File.join(directory, "#{name}.jsonl.gz")
        import = Import.create!(kind: kind, file_name: File.basename(path), path: path, mapping: mapping)
        Importing::FileImporter.new(import, @settings).run
        raise Error, "the demo could not be imported: #{import.error}" unless import.state == "done"

        @say.call("Imported #{import.stored} #{name}.")
      end
    end

    # The destination, and the right to send results back.
    def keep_stand_in
      FerrowickPost.connect(Database.new(@settings).stand_in_connection)
      service = FerrowickPost::ServiceSetting.current
      _, key = SendingKey.issue(Source.find_by!(name: "campaigns"), demo: true)
      service.update!(collector: "http://127.0.0.1:#{@settings.collector_port}/events", sending_key: key)
      Destination.create!(name: "Ferrowick Post", kind: "webhook", secret: service.secret,
                          settings: { "url" => "http://127.0.0.1:#{@settings.stand_in_port}/batches" })
      names.fetch("later_types").each { |name, told| EventType.create!(name: name, **told) }
      LedgerBuilding::Builder.new(EstrelServer.ledger, @settings).refresh
    end

    def names = @names ||= YAML.safe_load_file(NAMES)

    def describe
      names.fetch("event_types").each { |name, told| EventType.find_by!(name: name).update!(told) }
      fields = EventProperty.all + AttributeDefinition.all
      names.fetch("fields").each { |name, told| fields.each { |row| row.update!(told) if row.name == name } }
      EventProperty.where(name: "campaign").find_each { |row| row.update!(value_names: names.fetch("campaigns")) }
      SOURCES.each { |name, description| Source.find_by!(name: name).update!(description: description) }
    end

    def keep_rule_sets
      catalogue = EstrelServer.ledger.current.catalogue
      RULE_SETS.each_with_index do |(name, rules), index|
        RuleSet.new(name: name, default: index.zero?).keep(Answers::Asking.rule_set(rules, catalogue))
      end
    end

    def keep_audiences
      catalogue = EstrelServer.ledger.current.catalogue
      AUDIENCES.each do |name, json|
        Audience.create!(name: name).keep(Answers::Asking.definition(json, catalogue), catalogue)
      end
    end

    def keep_notes
      NOTES.each { |date, text| Annotation.create!(date: date, text: text) }
      keep_seasons
      SAVED.each { |name, asked| SavedAnalysis.create!(name: name, folder: "Every Monday").keep(*asked) }
      Page.create!(name: "Every Monday", blocks: PAGE.map { |kind, words, drawn| block(kind, words, drawn) })
    end

    def keep_seasons
      groups = SEASONS.map do |name, (from, to)|
        { "name" => name, "who" => { "seen" => { "window" => { "from" => from, "to" => to }.compact } } }
      end
      Grouping.create!(name: "Seasons of 2025 and 2026", groups: groups)
    end

    def block(kind, words, drawn)
      case kind
      when "analysis"
        { kind: kind, id: SavedAnalysis.find_by!(name: words).id, table: false, drawn: drawn }.compact
      when "audience" then { kind: kind, id: Audience.find_by!(name: words).id }
      else { kind: kind, text: words }
      end
    end

    # As of the day after the docks were repaired, the next morning.
    def carry_out(export)
      rule_set = Answers::Asking.rule_set(RuleSet.current.rules_json, EstrelServer.ledger.current.catalogue)
      as_of = Ferrowick::BROKEN_DAYS.last + 1
      run = ExportRun.start(export, as_of: as_of, rule_set: rule_set, queued: false)
      Exporting::Runner.new(run).run
      run.update!(exported_at: Time.at(EstrelServer.ledger.current.calendar.at(as_of + 1, 9, 0) / 1_000_000).utc)
    end

    def keep_plan
      list = ContactList.create!(name: "Do not contact", kind: "email")
      list.add(LISTED.join("\n"))
      holdout = Holdout.create!(name: "Repair news control", share: 0.1)
      rules = Estrel::Exports::Settings.parse({ **PLAN, "lists" => [list.id], "holdout" => holdout.id })
      export = Export.create!(name: "Docks repaired", audience: Audience.find_by!(name: "Met the broken docks"),
                              rules: rules.to_h)
      carry_out(export)
    end
  end
end
