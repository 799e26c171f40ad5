# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Disk do
  include ApiHelper

  # Room for so many bytes more than are kept in reserve.
  def left(bytes) = allow(described_class).to receive(:free).and_return(described_class::RESERVE + bytes)

  it "stops uploads, imports, exports, refreshes and backups while there is room left, and lets them go on when there is more" do
    fill
    before = EstrelServer::Event.count
    ledger = EstrelServer.ledger.current_manifest_or_nil
    audience = call(:post, "/audiences", { name: "All", definition: { "all" => [] } })
    export = call(:post, "/exports", { name: "Once", audience_id: audience["id"], rules: { columns: [{ take: "identifier:customer" }] }, as_of: "2026-05-20" })
    run = -> { call(:post, "/exports/#{export["id"]}/runs", { as_of: "2026-05-20" }).then { |made| work_off && call(:get, "/runs/#{made["id"]}") } }
    full = /the disk is nearly full; free [\d,]+ MB/i

    left(-1)
    done = import(event("new"))
    expect([done.state, done.error]).to match(["failed", full])
    expect(EstrelServer::Event.count).to eq(before)
    expect(run.call).to include("state" => "failed", "error" => match(full))
    expect { refresh }.to raise_error(described_class::Full, full)
    expect(EstrelServer.ledger.current_manifest_or_nil).to eq(ledger)
    expect { EstrelServer::BackingUp::Backup.new(EstrelServer.settings).write(File.join(Dir.mktmpdir, "copy")) }.to raise_error(described_class::Full)
    expect { described_class.check("/", 1) }.to raise_error(described_class::Full, "the disk is nearly full; free 1 MB and try again")

    left(10 << 20)
    expect { described_class.check("/", 11 << 20) }.to raise_error(described_class::Full, /free 2 MB/)
    expect(import(event("new")).state).to eq("done")
    expect(run.call).to include("state" => "done")
  end

  it "tells what is free where something is kept" do
    expect(described_class.free(EstrelServer.settings.var)).to be_between(1, 1 << 50)
  end
end
