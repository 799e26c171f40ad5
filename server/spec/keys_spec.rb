# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Settings::Secrets do
  def settings(**keys) = EstrelServer::Settings.from({ "ESTREL_VAR" => EstrelServer.settings.var, **keys.transform_keys { |name| "ESTREL_#{name.upcase}_KEY" } })

  def noted = EstrelServer::Workspace.current.keys_digest

  it "notes by which keys the database is written, and refuses others, until the old ones are said to be lost" do
    EstrelServer::Workspace.current.update!(keys_digest: nil)
    described_class.check(settings(secrets: "a", erasure: "b"))
    first = noted
    described_class.check(settings(secrets: "a", erasure: "b"))
    [{ secrets: "a" }, { erasure: "b" }, { secrets: "b", erasure: "a" }, {}].each do |others|
      expect { described_class.check(settings(**others)) }.to raise_error(EstrelServer::Error, /the keys of this machine are not those/)
    end
    expect(first).to eq(noted).and match(/\A\h{64}\z/)
    EstrelServer::Workspace.current.update!(keys_digest: nil)
    described_class.check(settings)
    expect(noted).not_to eq(first)
  end

  it "remembers the erased under the key that is given, or else under one that is kept" do
    given = settings(erasure: "given")
    expect(described_class.erasure(given)).to eq(["given"])
    kept = described_class.erasure(settings)
    expect([kept, File.stat(given.erasure_key_file).mode & 0o777]).to eq([[File.read(given.erasure_key_file)], 0o600])
  end

  it "knows the erased again by whichever key they were remembered under" do
    remember = lambda do |settings, identifier|
      allow(EstrelServer).to receive(:settings).and_return(settings)
      EstrelServer::ErasedIdentifier.create!(digest: EstrelServer::ErasedIdentifier.digests([identifier]).first, erased_at: Time.now)
      EstrelServer::ErasedIdentifier.among(%w[customer:1 customer:2 customer:3])
    end
    environment = { "ESTREL_VAR" => EstrelServer.settings.var, "ESTREL_ERASURE_KEY" => "second", "ESTREL_ERASURE_KEYS_BEFORE" => "first" }
    expect(remember.call(settings(erasure: "first"), "customer:1")).to eq(%w[customer:1])
    expect(remember.call(EstrelServer::Settings.from(environment), "customer:3")).to eq(%w[customer:1 customer:3])
    expect(remember.call(settings(erasure: "second"), "customer:2")).to eq(%w[customer:2 customer:3])
  end

  describe EstrelServer::Settings::Rotation do
    let(:account) { EstrelServer::Account.create!(email: "ada@estrel.example", role: "analyst", totp_secret: "JBSWY3DPEHPK3PXP") }
    let(:webhook) { EstrelServer::Destination.create!(name: "Push", kind: "webhook", settings: { url: "https://push.example/in" }, secret: signing) }
    let(:signing) { "whsec_#{["s" * 24].pack("m0")}" }
    let(:keys) { EstrelServer::Settings::Secrets }

    after do
      keys.configure(EstrelServer.settings)
      EstrelServer::Workspace.update_all(keys_digest: nil)
    end

    # As everything was written with a key.
    def written_with(settings)
      keys.configure(settings)
      EstrelServer::Workspace.update_all(keys_digest: nil)
      keys.check(settings)
      [account, webhook]
    end

    # What is read by a process that starts with these settings.
    def read(settings)
      keys.configure(settings)
      keys.check(settings)
      [EstrelServer::Account.find(account.id).totp_secret, EstrelServer::Destination.find(webhook.id).secret]
    end

    it "writes every secret anew with the key that is given, at once or not at all, and once" do
      keys.configure(settings(secrets: "lost", erasure: "b"))
      lost = EstrelServer::Account.create!(email: "eve@estrel.example", role: "viewer", totp_secret: "KRSXG5CTMVRXEZLU")
      before = settings(secrets: "old", erasure: "b")
      written_with(before)
      after = EstrelServer::Settings.from({ "ESTREL_VAR" => before.var, "ESTREL_SECRETS_KEY" => "new", "ESTREL_SECRETS_KEY_BEFORE" => "old", "ESTREL_ERASURE_KEY" => "b" })
      allow(EstrelServer::Workspace).to receive(:current).and_wrap_original do |original|
        original.call.tap { |row| allow(row).to receive(:update!).and_raise(Errno::ENOSPC) }
      end
      expect { described_class.new(after).carry_out }.to raise_error(Errno::ENOSPC)
      RSpec::Mocks.space.proxy_for(EstrelServer::Workspace).reset
      expect(read(before)).to eq(["JBSWY3DPEHPK3PXP", signing])
      expect(Array.new(2) { described_class.new(after).carry_out }).to eq([2, nil])
      expect(read(after)).to eq(["JBSWY3DPEHPK3PXP", signing])
      expect { keys.check(before) }.to raise_error(EstrelServer::Error)
      keys.configure(settings(secrets: "lost", erasure: "b"))
      expect(lost.reload.totp_secret).to eq("KRSXG5CTMVRXEZLU")
    end

    it "makes another key where it is kept, and goes on where it was interrupted" do
      var = Dir.mktmpdir
      own = EstrelServer::Settings.from({ "ESTREL_VAR" => var })
      written_with(own)
      first = [own.secrets_key_file, own.erasure_key_file].map { |path| File.read(path) }
      2.times { described_class.new(own).begin }
      expect(Array.new(2) { described_class.new(own).carry_out }).to eq([2, nil])
      described_class.new(own).finish
      expect([read(own), Dir.children(File.dirname(own.secrets_key_file))]).to eq([["JBSWY3DPEHPK3PXP", signing], ["secrets"]])
      expect(File.read(own.secrets_key_file)).not_to eq(first[0])
      expect(keys.erasure(own)).to match([/\A\h{64}\z/, first[1]])
      expect { described_class.new(settings(secrets: "x")).begin }.to raise_error(EstrelServer::Error, /ESTREL_SECRETS_KEY_BEFORE/)
      expect { described_class.new(EstrelServer.settings).begin }.to raise_error(EstrelServer::Error, /stop Estrel first/)
    ensure
      FileUtils.rm_rf(var)
    end

    it "takes up another key for the erased beside those before, and does without none of them" do
      environment = { "ESTREL_VAR" => EstrelServer.settings.var, "ESTREL_SECRETS_KEY" => "a", "ESTREL_ERASURE_KEY" => "third" }
      written_with(EstrelServer::Settings.from(environment.merge("ESTREL_ERASURE_KEY" => "first")))
      found = ["first", "second,first", "second"].map do |before|
        added = EstrelServer::Settings.from(environment.merge("ESTREL_ERASURE_KEYS_BEFORE" => before))
        described_class.new(added).carry_out
        keys.check(added)
      rescue EstrelServer::Error => e
        e.message[/\Athe keys of this machine are not those/]
      end
      expect(found).to eq([nil, "the keys of this machine are not those", "the keys of this machine are not those"])
    end

    it "brings every workspace to the new keys before the one so far is forgotten" do
      Dir.mktmpdir do |var|
        run = ->(*words, **environment) { IO.popen({ "ESTREL_VAR" => var, "ESTREL_DEMO" => "off", **environment }, [File.join(ROOT, "bin/estrel"), *words], err: %i[child out], &:read) }
        [%w[setup], %w[workspaces make shop], %w[setup --rotate-key]].each { |words| run.call(*words) }
        expect(Dir.children(File.join(var, "keys"))).to eq(["secrets"])
        expect(File.readlines(File.join(var, "database/erasure-key")).size).to eq(2)
        expect(run.call("workspace", "ESTREL_WORKSPACE" => "shop")).to eq("reporting time zone: UTC\n")
      end
    end

    it "leaves no model with secrets out" do
      Zeitwerk::Loader.eager_load_all
      expect(described_class.models).to match_array(EstrelServer::Record.descendants.select { |model| model.encrypted_attributes&.any? })
    end
  end
end
