# frozen_string_literal: true

require_relative "server_helper"

# Files from elsewhere, looked at before they are imported, then imported as they were understood.
RSpec.describe EstrelServer::Importing::Inspection do
  let(:umlauts) { "customer;event;time;café\n1;gekauft;2026-05-03T10:00:00Z;Größe\n" }
  let(:samples) { File.join(ROOT, "demo/samples") }

  def inspected(text, name = "file.csv", settings = EstrelServer.settings, **given)
    Tempfile.create("inspected") do |file|
      file.binmode
      file.write(text)
      file.flush
      described_class.new(file.path, name, given.transform_keys(&:to_s), settings).result
    end
  end

  # @param sheets [Hash{String => Array<Array>}] rows by name of the sheet
  # @param properties [String] of the workbook, in XML
  # @return [String] an .xlsx file
  def spreadsheet(sheets, properties = "")
    office = "http://schemas.openxmlformats.org"
    relations = ->(rows) { %(<Relationships xmlns="#{office}/package/2006/relationships">#{rows.join}</Relationships>) }
    main = %(xmlns="#{office}/spreadsheetml/2006/main" xmlns:r="#{office}/officeDocument/2006/relationships")
    numbers = (1..sheets.size)
    files = {
      "xl/workbook.xml" => "<workbook #{main}><workbookPr#{properties}/><sheets>#{sheets.keys.zip(numbers).map { |name, n| %(<sheet name="#{name}" sheetId="#{n}" r:id="rId#{n}"/>) }.join}</sheets></workbook>",
      "xl/_rels/workbook.xml.rels" => relations.call(numbers.map { |n| %(<Relationship Id="rId#{n}" Type="#{office}/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet#{n}.xml"/>) }),
      "xl/styles.xml" => %(<styleSheet #{main}><cellXfs count="2"><xf numFmtId="0"/><xf numFmtId="22"/></cellXfs></styleSheet>),
      **sheets.values.zip(numbers).to_h { |rows, n| ["xl/worksheets/sheet#{n}.xml", "<worksheet #{main}><sheetData>#{sheet_rows(rows)}</sheetData></worksheet>"] }
    }
    Zip::OutputStream.write_buffer { |zip| files.each { |name, text| zip.put_next_entry(name) && zip.write(text) } }.string
  end

  def sheet_rows(rows)
    rows.map.with_index(1) do |cells, row|
      %(<row r="#{row}">#{cells.map.with_index { |cell, column| sheet_cell("#{("A".ord + column).chr}#{row}", cell) }.join}</row>)
    end.join
  end

  def sheet_cell(place, value)
    case value
    when Time then %(<c r="#{place}" s="1"><v>#{((value - Time.utc(1899, 12, 30)) / 86_400).round(9)}</v></c>)
    when Numeric then %(<c r="#{place}"><v>#{value}</v></c>)
    else %(<c r="#{place}" t="inlineStr"><is><t>#{value}</t></is></c>)
    end
  end

  def sample(name) = File.binread(File.join(samples, name))

  def imported(text, found) = import(text, kind: found[:kind], mapping: found[:mapping])

  it "reads the samples as they are meant, without a word" do
    sales = inspected(sample("kiosk-sales.csv"), "kiosk-sales.csv")
    expect(sales).to include(kind: "events", own: false, check: { rows: 400, usable: 400, reasons: [] })
    expect(sales[:mapping]).to include("columns" => { "identifier.customer" => "Kunde", "type" => "Ereignis", "time" => "Datum" }, "time_format" => "day_first", "decimal_comma" => true, "time_zone" => "UTC")
    expect(sales[:times][:forms]).to include({ format: "day_first", said: "1 Jul 2026, 13:17" }, { format: "month_first", said: "7 Jan 2026, 13:17" })
    expect(imported(sample("kiosk-sales.csv"), sales)).to have_attributes(state: "done", stored: 400, rejected: 0)
    first = EstrelServer::Event.order(:id).first
    expect([first.occurred_at, first.properties]).to eq([Time.utc(2026, 7, 1, 13, 17), { "Betrag" => 1240.4, "Kiosk" => "Altstadt" }])
  end

  it "reads nested JSON with epoch milliseconds as columns" do
    log = inspected(sample("app-log.jsonl"), "app-log.jsonl")
    expect(log[:mapping]).to include("flat" => true, "time_format" => "epoch_ms", "columns" => { "time" => "ts", "type" => "evt", "identifier.customer" => "user.id" })
    expect(imported(sample("app-log.jsonl"), log)).to have_attributes(state: "done", stored: 500, rejected: 0)
    expect(EstrelServer::Event.order(:id).first.properties).to include("props.battery" => 0.25, "props.screen.width" => 390, "user.locale" => "fr")
  end

  it "takes profiles without a time for having always been so, and keeps e-mail addresses that are customer IDs apart" do
    people = inspected(sample("crm-people.csv"), "crm-people.csv")
    expect(people).to include(kind: "profiles")
    expect(people[:mapping]).to include("columns" => { "identifier.customer" => "customer_id" }, "always" => true)
    expect(imported(sample("crm-people.csv"), people)).to have_attributes(state: "done", stored: 160, rejected: 0)
    expect(EstrelServer::AttributeDefinition.where(name: "signup_date").pluck(:value_type)).to eq(["date"])
    expect(EstrelServer::AttributeValue.distinct.pluck(:occurred_at)).to eq([Time.utc(1970)])
    import([event("a", subject: "customer:person1@mail.ferrowick.example")].join("\n"))
    EstrelServer::LedgerBuilding::Builder.new.refresh
    expect(EstrelServer.ledger.current.newest_day).to eq(Date.new(2026, 5, 3))
  end

  it "leaves open what cannot be told: whether day or month comes first" do
    csv = "user;event;date\n1;a;03/04/2025\n2;b;05/06/2025\n"
    expect(inspected(csv)).to include(times: include(ambiguous: true, example: "03/04/2025", zoned: false), check: { rows: 0, usable: 0, reasons: [] })
    found = inspected(csv, mapping: { "columns" => { "identifier.customer" => "user", "type" => "event", "time" => "date" }, "time_format" => "month_first", "time_zone" => "UTC" })
    expect(found).to include(times: include(ambiguous: false), check: include(usable: 2))
    expect(import(csv, mapping: found[:mapping]).stored).to eq(2)
    expect(EstrelServer::Event.order(:occurred_at).first.occurred_at).to eq(Time.utc(2025, 3, 4))
  end

  it "reads dates with their year last, with points or slashes, a clock of twelve hours and a short year, and none that does not exist" do
    read = lambda do |format, text|
      EstrelServer::Importing::Instants.new(format, latest: Time.utc(2030), time_zone: "Europe/Lisbon").read(text)[0, 16]
    rescue EstrelServer::Importing::Instants::Unusable
      nil
    end
    cases = { ["day_first", "3.4.2025"] => "2025-04-02 23:00", ["month_first", "03/04/2025 12:05 am"] => "2025-03-04 00:05", ["month_first", "03/04/25 2:05 PM"] => "2025-03-04 14:05",
              ["day_first", "31-12-1999 23:59:58Z"] => "1999-12-31 23:59", ["day_first", "31/02/2025"] => nil, ["month_first", "31/01/2025"] => nil, ["day_first", "2025-04-03"] => nil }
    expect(cases.keys.to_h { |given| [given, read.call(*given)] }).to eq(cases)
  end

  it "counts what would be rejected and why, and reads the next file of the same shape in the same way" do
    csv = "who,what,at\n#{"1,a,2026-05-03T10:00:00Z\n" * 20},a,2026-05-03T10:00:00Z\n3,a,nonsense\n"
    mapping = { "columns" => { "identifier.customer" => "who", "type" => "what", "time" => "at" } }
    found = inspected(csv, kind: "events", mapping: mapping)
    expect(found[:check]).to include(rows: 22, usable: 20)
    expect(found[:check][:reasons]).to contain_exactly({ reason: /identifier is missing/, count: 1, example: ",a,2026-05-03T10:00:00Z" }, { reason: /not a time such as/, count: 1, example: "3,a,nonsense" })
    import(csv, mapping: mapping).update!(shape: found[:shape])
    expect(inspected("at,what,who\n2026-05-04T10:00:00Z,b,1\n")).to include(remembered: true, check: include(usable: 1), mapping: include(mapping))
  end

  it "reads Parquet as it reads CSV" do
    frame = Polars::DataFrame.new({ "user_id" => %w[a b a], "event" => %w[x y x], "time" => [Time.utc(2026, 5, 3, 10), Time.utc(2026, 5, 3, 11), Time.utc(2026, 5, 3, 12)], "amount" => [1.5, 2.0, nil], "*" => [{ "size" => 7 }] * 3 })
    path = Tempfile.new(["a", ".parquet"]).path
    frame.write_parquet(path)
    text = File.binread(path)
    found = inspected(text, "a.parquet")
    expect(found).to include(kind: "events", check: { rows: 3, usable: 3, reasons: [] })
    expect(imported(text, found)).to have_attributes(state: "done", stored: 3)
    expect(EstrelServer::Event.order(:occurred_at).pluck(:occurred_at, :properties)).to eq([[Time.utc(2026, 5, 3, 10), { "amount" => 1.5, "*.size" => 7 }], [Time.utc(2026, 5, 3, 11), { "amount" => 2.0, "*.size" => 7 }], [Time.utc(2026, 5, 3, 12), { "*.size" => 7 }]])
    expect { inspected("PAR1 and nothing more") }.to raise_error(EstrelServer::Importing::InputFile::Unreadable, /cannot be read/)
  end

  it "detects how text is encoded, and reads it as it was chosen where the detection is wrong" do
    texts = { "utf-8" => umlauts, "windows-1252" => umlauts.sub("Größe", "12 €"), "utf-16le" => umlauts, "utf-16be" => umlauts }
    texts.to_h { |name, text| [name, text.encode(EstrelServer::Importing::TextEncoding::NAMES[name]).b] }.each do |name, bytes|
      marks = { "utf-16le" => "\xFF\xFE", "utf-16be" => "\xFE\xFF", "utf-8" => "\xEF\xBB\xBF" }.transform_values(&:b)
      [bytes, (marks[name] + bytes if marks[name]), Zlib.gzip(bytes)].compact.each do |file|
        found = inspected(file)
        expect(found).to include(encoding: name, sheets: [], columns: include(include(name: "café", values: [texts[name][/[^;]*(?=\n\z)/]])), check: include(usable: 1))
      end
    end
    latin = "#{umlauts.lines.first}1;a;2026-05-03T10:00:00Z;\u0085\n".encode("ISO-8859-1").b
    expect(inspected(latin)[:encoding]).to eq("windows-1252")
    chosen = inspected(latin, mapping: { "encoding" => "iso-8859-1" })
    expect(chosen).to include(encoding: "iso-8859-1", mapping: include("encoding" => "iso-8859-1", "columns" => include("type" => "event")))
    expect(inspected("#{"größe;ort\n" * 9}a;b\xE9\n")[:encoding]).to eq("utf-8")
    expect { inspected(umlauts, mapping: { "encoding" => "klingon" }) }.to raise_error(EstrelServer::Importing::Mapping::Invalid, /no encoding "klingon"/)
  end

  it "imports text as it is encoded" do
    %w[windows-1252 utf-16le utf-16be].each.with_index(1) do |name, number|
      text = umlauts.sub("\n1;", "\n#{number};").encode(EstrelServer::Importing::TextEncoding::NAMES[name]).b
      expect(imported(text, inspected(text))).to have_attributes(state: "done", stored: 1)
    end
    expect(EstrelServer::Event.pluck(:properties)).to eq([{ "café" => "Größe" }] * 3)
  end

  it "reads a spreadsheet sheet by sheet" do
    sales = [%w[customer event time price], ["K1", "bought", Time.utc(2026, 5, 3, 10, 30, 17), 12.5], ["K2", "bought", Time.utc(2026, 5, 4), 3]]
    book = spreadsheet("Notes" => [["only a note"]], "Sales" => [[], *sales])
    expect(inspected(book)).to include(sheets: %w[Sales Notes], encoding: nil, mapping: include("sheet" => "Sales"))
    expect { inspected(book, mapping: { "sheet" => "Notes" }) }.to raise_error(EstrelServer::Importing::InputFile::Unreadable, /no row/)
    found = inspected(book, mapping: { "sheet" => "Sales" })
    expect(found).to include(kind: "events", check: { rows: 2, usable: 2, reasons: [] }, mapping: include("sheet" => "Sales"))
    expect(imported(book, found)).to have_attributes(state: "done", stored: 2)
    expect(EstrelServer::Event.order(:id).pluck(:occurred_at, :properties)).to eq([[Time.utc(2026, 5, 3, 10, 30, 17), { "price" => 12.5 }], [Time.utc(2026, 5, 4), { "price" => 3 }]])
    unreadable = EstrelServer::Importing::InputFile::Unreadable
    expect { inspected(book, mapping: { "sheet" => "Gone" }) }.to raise_error(unreadable, /no sheet "Gone"/)
    expect { inspected(book[0, 300]) }.to raise_error(unreadable)
    expect { inspected(spreadsheet({ "Sales" => sales }, ' date1904="1"')) }.to raise_error(unreadable, /from 1904/)
    expect { inspected(spreadsheet("Sales" => [%w[customer event time], ["x" * 3_000_000, "b", "c"]])) }.to raise_error(unreadable, /cell without an end/)
    bomb = spreadsheet("Sales" => [%w[customer event time], *([["K1" * 200, "b" * 1000, "c" * 1000]] * 1000)])
    limited = EstrelServer::Settings.from(ENV.to_h.merge("ESTREL_UNPACKED_MB" => "1"))
    expect { inspected(bomb, "bomb.xlsx", limited) }.to raise_error(unreadable, /unpacks to more than 1 MB/)
  end

  it "reads numbers with a unit" do
    csv = "customer;event;time;price;weight;note\n1;a;2026-05-03T10:00:00Z;12,50 €;1.234 kg;3 or 4\n2;a;2026-05-03T10:00:00Z;-3,00 €;0,5 kg;4 kg\n"
    found = inspected(csv)
    expect(found[:mapping]).to include("decimal_comma" => true)
    expect(imported(csv, found)).to have_attributes(state: "done", stored: 2)
    expect(EstrelServer::Event.order(:id).pluck(:properties)).to eq([{ "price" => 12.5, "weight" => 1234, "note" => "3 or 4" }, { "price" => -3, "weight" => 0.5, "note" => "4 kg" }])
  end

  it "tells what it cannot use of half a file, of none, and of one made for Estrel" do
    whole = sample("kiosk-sales.csv")
    half = inspected(whole[0, 12_000], whole: false)[:check]
    expect(half).to include(rows: be > 200, usable: half[:rows])
    expect { inspected("") }.to raise_error(EstrelServer::Importing::InputFile::Unreadable)
    expect(inspected([event("a")].join("\n"), "e.jsonl")).to include(own: true, kind: "events", check: include(usable: 1))
    expect(inspected("id,type,subject,time\n1,a,customer:7,2026-05-03T10:00:00Z\n2,a,7,2026-05-03T10:00:00Z\n")).to include(own: true, kind: "events", check: include(rows: 2, usable: 1))
  end
end
