# frozen_string_literal: true

# A small population in plain Ruby and its ledger on disk, so that a spec can state histories as literals.
#
# people: `{ id => { events: [{ type:, at: Time, **properties }], attributes: [{ name:, at: Time, value: }] } }`; an event
# may carry `received: Time`, `source: Integer` and `device: Integer`, an attribute `received: Time`. A person may have
# `reach: [{ channel:, at: Time, address: String or given: true/false }]` and a `profile_type:`. An event may say `of: id, linked:
# Time`: it was another person's, who turned out to be this one at that time; and `stored: name`: it came under another
# type's name.
class Population
  PROPERTY_TYPES = { String => "text", Float => "number", Integer => "number", TrueClass => "boolean",
                     FalseClass => "boolean" }.freeze

  # system: names of the event types that are no sign of life.
  attr_reader :people, :time_zone, :system

  def initialize(people, time_zone: "UTC", event_types: {}, attributes: {}, aliases: {}, system: [])
    @aliases = aliases
    @system = system
    @people = people
    @time_zone = time_zone
    @event_types = event_types
    @attributes = attributes
  end

  def calendar = @calendar ||= Estrel::Calendar.new(time_zone)

  # What it takes to make another population of the same kind.
  def settings = { time_zone: @time_zone, event_types: @event_types, attributes: @attributes, aliases: @aliases, system: @system }

  # The same people without everything received after a date. Of somebody of whom nothing was known nothing is left.
  def received_by(date)
    known = ->(rows) { (rows || []).select { |row| micros(row[:received] || row[:at]) < calendar.end_of(date) } }
    before = people.transform_values { |person| person.merge(%i[events attributes reach].to_h { |list| [list, known.call(person[list])] }) }
    self.class.new(before, **settings)
  end

  def micros(time) = (time.to_r * 1_000_000).to_i

  def catalogue
    @catalogue ||= Estrel::Catalogue.new(
      event_types: @event_types.each_with_index.map do |(name, properties), index|
        fields = properties.to_h { |property, type| [property, field(property, type)] }
        Estrel::Catalogue::EventType.new(id: index + 1, name: name, properties: fields, count: 0,
                                         not_activity: @system.include?(name))
      end,
      attributes: @attributes.map { |name, type| field(name, type) }, sources: { 1 => "app", 2 => "kiosk" }, aliases: @aliases
    )
  end

  # The ledger of these people, in so many pieces; with `touched`, that of other histories of some of them and of somebody
  # who is gone, with what is true of them in a tail.
  def write(directory, touched: nil, pieces: 1, facts: {})
    touched ? write_with_tail(directory, touched.sort, pieces) : write_files(directory, pieces, facts)
    Estrel::Ledger.new(directory, shelves: !touched.nil?).current
  end

  def first_seen(person) = [*person[:events], *person[:attributes], *person[:reach]].map { |row| micros(row[:at]) }.min

  protected

  def write_files(directory, pieces = 1, facts = {})
    writer = Estrel::Ledger::Writer.new(directory, calendar: calendar)
    ranges(pieces).each do |range|
      writer.begin_piece(range)
      part = pieces == 1 ? self : self.class.new(people.select { |id, _| range.cover?(id) }, **settings)
      part.put(writer)
    end
    writer.put_renamed(renamed_frame)
    yield writer if block_given?
    writer.commit(catalogue: catalogue, facts: { "visit_gap" => Reference::VISIT_GAP * Estrel::Calendar::MICROS, **facts })
  end

  def put(writer)
    events = catalogue.event_types.values.to_h do |type|
      [type, writer.with_days(events_frame(type)).sort(Estrel::Ledger::Layout::EVENT_ORDER)]
    end
    events.each { |type, frame| writer.put_sorted_events(type.id, frame) }
    writer.put_attribute_history(history_frame)
    writer.put_profiles(profiles_frame)
    writer.put_reach(reach_frame)
    writer.put_origins(origins_frame)
    writer.put_spine(Estrel::Ledger::Spine.of(events, calendar, Reference::VISIT_GAP * Estrel::Calendar::MICROS))
  end

  private

  # Of about as many people each; some may hold nobody.
  def ranges(count)
    ids = people.keys.sort
    cuts = (1...count).map { |piece| ids[(ids.size * piece) / count] || 0 }
    [0, *cuts].zip([*cuts, Estrel::Ledger::Layout::AFTER_ALL]).map { |first, after| first..(after - 1) }
  end

  # The base knows of the touched people every other thing only, and nothing of the first.
  def write_with_tail(directory, touched, pieces)
    before = people.except(touched.first)
    touched.drop(1).each do |id|
      before[id] = before.fetch(id).to_h do |name, rows|
        [name, rows.is_a?(Array) ? rows.each_slice(2).map(&:first) : rows]
      end
    end
    gone = people.keys.max + 1
    before[gone] = people.values.last
    self.class.new(before, **settings).write_files(directory, pieces)
    base = Estrel::Ledger.new(directory).current
    ids = Polars::Series.new("profile_id", [*touched, gone], dtype: Polars::Int64)
    self.class.new(people.slice(*touched), **settings).write_files(directory) { |writer| writer.put_touched(base, ids) }
  end

  def field(name, type) = Estrel::Catalogue::Field.new(name: name, type: type, mixed: false)

  def each_event(type)
    people.flat_map { |id, person| person[:events].select { |row| row[:type] == type }.map { |row| [id, row] } }
  end

  def events_frame(type)
    rows = each_event(type.name)
    times = rows.map { |_, row| micros(row[:at]) }
    received = rows.map { |_, row| micros(row[:received] || row[:at]) }
    columns = { "profile_id" => rows.map(&:first), "occurred_at" => times, "received_at" => received,
                "event_id" => numbers(type.name), "source_id" => rows.map { |_, row| row[:source] || 1 },
                "device" => rows.map { |_, row| row[:device] } }
    type.properties.each_value do |property|
      columns[Estrel::Ledger::Layout.property(property.name)] = rows.map { |_, row| row[property.name.to_sym] }
    end
    Polars::DataFrame.new(columns, schema_overrides: overrides(columns, type))
  end

  def overrides(columns, type)
    fixed = Estrel::Ledger::Layout::EVENT_COLUMNS.slice(*columns.keys)
    typed = type.properties.values.to_h do |property|
      [Estrel::Ledger::Layout.property(property.name), Estrel::Ledger::Layout::DTYPES.fetch(property.type)]
    end
    fixed.merge(typed)
  end

  def history_frame
    rows = people.flat_map { |id, person| person[:attributes].map { |row| [id, row] } }
    times = rows.map { |_, row| micros(row[:at]) }
    received = rows.map { |_, row| micros(row[:received] || row[:at]) }
    columns = { "profile_id" => rows.map(&:first), "attribute" => rows.map { |_, row| row[:name] },
                "occurred_at" => times, "received_at" => received, "value" => rows.map { |_, row| text(row[:value]) } }
    Polars::DataFrame.new(columns, schema_overrides: Estrel::Ledger::Layout::HISTORY_COLUMNS)
  end

  def reach_frame
    rows = people.flat_map { |id, person| (person[:reach] || []).map { |row| [id, row] } }
    columns = { "profile_id" => rows.map(&:first), "channel" => rows.map { |_, row| row[:channel] },
                "occurred_at" => rows.map { |_, row| micros(row[:at]) },
                "received_at" => rows.map { |_, row| micros(row[:received] || row[:at]) },
                "address" => rows.map { |_, row| row[:address] }, "given" => rows.map { |_, row| row[:given] } }
    Polars::DataFrame.new(columns, schema_overrides: Estrel::Ledger::Layout::REACH_COLUMNS)
  end

  def numbered
    @event_types.keys.flat_map { |type| each_event(type).zip(numbers(type)).map { |(id, row), number| [id, row, number] } }
  end

  # Events are numbered within their type and person, so that others of these people are numbered alike.
  def numbers(type)
    first = @event_types.keys.index(type) * 100_000_000
    each_event(type).map(&:first).tally.flat_map { |id, count| Array.new(count) { |place| first + (id * 10_000) + place } }
  end

  def origins_frame
    rows = numbered.select { |_, row, _| row[:of] }.flat_map do |id, row, number|
      day = calendar.day_of(micros(row[:linked]))
      joined = Estrel::Calendar.number(day)
      [[id, number, row[:of], 0, joined], [id, number, id, joined, Estrel::Lifecycle::Spells::NEVER]]
    end
    columns = Estrel::Ledger::Layout::ORIGIN_COLUMNS
    Polars::DataFrame.new(columns.keys.each_with_index.to_h { |name, at| [name, rows.map { |row| row[at] }] }, schema_overrides: columns)
  end

  def renamed_frame
    rows = numbered.select { |_, row, _| row[:stored] }
    Polars::DataFrame.new({ "event_id" => rows.map(&:last), "stored_as" => rows.map { |_, row, _| row[:stored] } },
                          schema_overrides: Estrel::Ledger::Layout::RENAMED_COLUMNS)
  end

  def text(value) = value.is_a?(Array) ? JSON.generate(value) : value&.to_s

  def profiles_frame
    ids = people.keys.sort
    columns = { "profile_id" => ids, "profile_type" => ids.map { |id| people[id][:profile_type] || "customer" },
                "first_seen_at" => ids.map { |id| first_seen(people[id]) } }
    types = Estrel::Ledger::Layout::PROFILE_COLUMNS.slice(*columns.keys)
    catalogue.attributes.each_value do |attribute|
      column = Estrel::Ledger::Layout.attribute(attribute.name)
      columns[column] = ids.map { |id| newest(people[id], attribute.name) }
      types[column] = Estrel::Ledger::Layout::DTYPES.fetch(attribute.type)
    end
    Polars::DataFrame.new(columns, schema_overrides: types)
  end

  def newest(person, name)
    value = person[:attributes].select { |row| row[:name] == name }.max_by { |row| row[:at] }&.fetch(:value)
    value.is_a?(Date) ? Estrel::Calendar.number(value) : value
  end
end

# Gives specs a ledger that disappears with the example.
module LedgerHelper
  # Of every other number for `tail`, what is true of a third of the people lies in a tail, and, again of every other, the
  # ledger lies in three pieces.
  def with_ledger(population, tail: 0)
    touched = population.people.keys.each_slice(3).map(&:last) if (tail / 8).odd?
    pieces = (tail / 16).odd? ? 3 : 1
    Dir.mktmpdir("estrel-ledger") { |directory| yield population.write(directory, touched: touched, pieces: pieces) }
  end

  # A definition that may refer to lifecycle rules and to audiences, `{ id => definition as JSON }`.
  def parsed(json, population, audiences = {})
    rule_sets = Estrel::Audience::RuleSetSource.new(population.catalogue, ->(*) {}, ->(*) {})
    source = Estrel::Audience::AudienceSource.new(population.catalogue, ->(id) { audiences[id] && ["audience #{id}", audiences[id]] }, [], rule_sets)
    Estrel::Audience::Definition.parse(json, catalogue: population.catalogue, audiences: source, rule_sets: rule_sets)
  end

  # An analysis of a ledger, ready to be asked.
  def analysis(address, question, ledger, as_of:, today: as_of + 1, **workspace)
    asked = Estrel::Analyses::Workspace.new(ledger: ledger, as_of: as_of, today: today, **workspace)
    Estrel::Analyses.named(address).ask(JSON.parse(JSON.generate(question)), asked)
  end
end
