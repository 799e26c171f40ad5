# frozen_string_literal: true

require_relative "server_helper"

# Commands in this process; `command_line_spec` starts one of its own.
RSpec.describe EstrelServer::CLI do
  let(:said) { [] }
  let(:shell) { instance_double(EstrelServer::CLI::Main).tap { |shell| allow(shell).to receive(:say) { |line| said << line } } }

  # The output of the block.
  def lines
    said.clear
    yield
    said.dup
  end

  describe EstrelServer::CLI::AccountCommand do
    let(:command) { described_class.new(shell, EstrelServer.settings) }
    let(:link) { %r{http://127\.0\.0\.1:\d+/link/(\S+)\z} }

    it "adds an account, sets its password once by a link, and lists it" do
      added = lines { command.add("Ada@Ferrowick.example", "analyst") }
      expect(added).to match([/\Aone-time link to set the password: #{link}/])
      expect(lines { command.list }).to eq(["ada@ferrowick.example, analyst, no password yet"])
      EstrelServer::OneTimeLink.use(added.first[link, 1], email: nil, password: "a bicycle by the river") { nil }
      expect(lines { command.list }).to eq(["ada@ferrowick.example, analyst"])
      expect { command.add("ada@ferrowick.example", "viewer") }.to raise_error(EstrelServer::Error, "ada@ferrowick.example has an account already")
      expect(EstrelServer::Account.find_by(email: "ada@ferrowick.example").role).to eq("analyst")
      expect(EstrelServer::AuditEntry.where(about: "ada@ferrowick.example").order(:id).pluck(:action).first(2)).to eq(["account created", "password link made"])
    end

    it "issues tokens with the given scopes, and rejects unknown accounts" do
      command.add("ada@ferrowick.example", "viewer")
      token = lines { command.token("ADA@ferrowick.example", %w[read]) }.first[/\Atoken, shown this once: (et_\S+)\z/, 1]
      expect(EstrelServer::ApiToken.usable.sole).to have_attributes(scopes: %w[read])
      expect(token.length).to be > 30
      %i[link reset].each { |action| expect { command.public_send(action, "bo@ferrowick.example") }.to raise_error(EstrelServer::Error, /no account "bo@ferrowick.example"/) }
    end

    it "prints a link for the first administrator, and nothing once there is one" do
      expect(lines { command.first }).to match([/\ACreate the first administrator at: #{link}/])
      EstrelServer::Account.create!(email: "eve@ferrowick.example", role: "administrator", password: "a bicycle by the sea")
      expect(lines { command.first }).to eq([])
    end
  end

  describe EstrelServer::CLI::SourceCommand do
    let(:command) { described_class.new(shell) }

    def key(&) = lines(&).first[/\Asending key, shown this once: (ek_\S+)\z/, 1]

    it "issues a key, rotates it with an overlap, and revokes all active keys" do
      first = key { command.add("shop") }
      expect { command.add("shop") }.to raise_error(EstrelServer::Error, /shop has a key already/)
      second = key { command.rotate("shop", 24) }
      expect(second).not_to eq(first)
      expect(EstrelServer::SendingKey.usable.count).to eq(2)
      expect(lines { command.revoke("shop") }).to eq(["2 keys of shop have been revoked"])
      expect(lines { command.list }).to match([/\Ashop: \S+ revoked, \S+ revoked\z/])
      expect { command.revoke("till") }.to raise_error(EstrelServer::Error, 'no source "till"')
    end
  end

  describe EstrelServer::CLI::ImportCommand do
    def run(kind, content, name: "rides.csv", **options)
      Dir.mktmpdir do |directory|
        path = File.join(directory, name)
        File.write(path, content)
        given = { "map" => {}, "custom_id" => [], **options.transform_keys(&:to_s) }
        lines { described_class.new(kind, Thor::CoreExt::HashWithIndifferentAccess.new(given), shell).run([path]) }
      end
    end

    before { allow(TTY::ProgressBar).to receive(:new).and_return(instance_double(TTY::ProgressBar, advance: nil, current: 0, finish: nil)) }

    it "maps columns, counts rows by outcome, and refreshes the ledger" do
      rows = "when,rider,km\n2026-05-03T10:00:00Z,7,2\n2026-05-04T10:00:00Z,8,3\n,9,4\n"
      output = run("events", rows, map: { "time" => "when", "customer" => "rider" }, type: "ride_ended", source: "till")
      expect(output.first).to start_with("rides.csv: done. 3 rows read, 2 stored, 0 duplicates, 1 rejected (0 conflicts), ")
      expect(output[1]).to match(/\A  row 4: .*time/)
      expect(EstrelServer.ledger.current.events("ride_ended").height).to eq(2)
    end

    it "prints five rejected rows and where to find the rest" do
      output = run("events", "id,type,subject,time\n0,ride,customer:1,2026-05-03T10:00:00Z\n#{Array.new(6) { |row| "#{row},ride,nobody,2026-05-03T10:00:00Z\n" }.join}")
      expect([output.size, output.last]).to eq([7, "  all rejected rows: place Data in the interface"])
    end

    it "reports an unreadable mapping and a missing file" do
      expect { run("events", "", mapping: "/nowhere.json") }.to raise_error(EstrelServer::Error, /the mapping file cannot be read/)
      command = described_class.new("events", { map: {}, custom_id: [] }, shell)
      expect { command.run(["/nowhere.csv"]) }.to raise_error(EstrelServer::Error, "there is no file /nowhere.csv")
    end
  end

  describe EstrelServer::CLI::Main do
    def main(*arguments) = described_class.start(arguments, debug: true)

    it "rejects invalid arguments" do
      expect { main("import", "rides", "x.csv") }.to raise_error(Thor::Error, "the kind is events or profiles")
      expect { main("import", "events") }.to raise_error(Thor::Error, "name at least one file")
      expect { main("ledger", "sing") }.to raise_error(Thor::Error, "choose one of: build, refresh, follow, prepare or mirror")
    end

    it "describes the API" do
      expect { main("describe") }.to output(/\A\{\n  "openapi": "3/).to_stdout
    end
  end
end
