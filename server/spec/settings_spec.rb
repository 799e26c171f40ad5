# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Settings do
  def settings(**env) = described_class.from(env.to_h { |name, value| ["ESTREL_#{name}", value] })

  # In docs/settings.md, the first column of its table.
  let(:documented) { File.read(File.join(ROOT, "docs/settings.md"))[/^\| `.*^\|[^\n]*$/m].lines.flat_map { |line| line.split("|")[1].scan(/ESTREL_\w+/) } }
  # Read by the command line and by what starts processes.
  let(:elsewhere) { %w[ESTREL_WORKSPACE] }
  # Several, of which there may be none.
  let(:none) { %w[ESTREL_NATS_URL ESTREL_PARTS_HELD ESTREL_TRUSTED_PROXIES] }
  # May be any text.
  let(:words) { %w[ESTREL_VAR ESTREL_NATS_CA ESTREL_PUSH_HOSTS ESTREL_HOSTS ESTREL_SECRETS_KEY ESTREL_SECRETS_KEY_BEFORE ESTREL_ERASURE_KEY ESTREL_ERASURE_KEYS_BEFORE ESTREL_OIDC_CLIENT ESTREL_OIDC_SECRET ESTREL_OIDC_NAME] }

  it "reads what the documents list, and nothing else" do
    env = {}
    read = []
    env.define_singleton_method(:[]) { |name| (read << name) && super(name) }
    env.define_singleton_method(:fetch) { |name, *rest| (read << name) && super(name, *rest) }
    env.define_singleton_method(:key?) { |name| (read << name) && super(name) }
    described_class.from(env)
    read = read.map { |name| name.delete_suffix("_FILE") }.uniq
    expect([read - documented, documented - read]).to eq([[], elsewhere])
  end

  it "refuses what makes no sense, naming the variable" do
    senseless = ["Lantern Hill", "-1", "http://", "☃", ""]
    taken = (documented - elsewhere - words).to_h do |name|
      found = senseless.select do |value|
        described_class.from({ name => value })
      rescue described_class::Invalid => e
        expect(e.message).to include(name)
        false
      end
      [name, found]
    end
    expect(taken.reject { |_, values| values.empty? }).to eq(none.to_h { |name| [name, [""]] })
  end

  it "tells people an address that can be opened, wherever it listens" do
    told = { "127.0.0.1" => "http://127.0.0.1:4270", "0.0.0.0" => "http://localhost:4270", "::" => "http://localhost:4270", "::1" => "http://[::1]:4270",
             "10.0.0.7" => "http://10.0.0.7:4270" }
    expect(told.keys.to_h { |bind| [bind, settings(BIND: bind).public_url] }).to eq(told)
    expect(settings(BIND: "0.0.0.0").collector_url).to eq("http://localhost:4271")
    expect(settings(BIND: "0.0.0.0", PUBLIC_URL: "https://estrel.example").hosts).to include("estrel.example", "localhost", "127.0.0.1")
  end
end
