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
    expect(described_class.erasure(given)).to eq("given")
    kept = described_class.erasure(settings)
    expect([kept, File.stat(given.erasure_key_file).mode & 0o777]).to eq([File.read(given.erasure_key_file), 0o600])
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
      own = EstrelServer::Settings.from({ "ESTREL_VAR" => var, "ESTREL_ERASURE_KEY" => "b" })
      written_with(own)
      first = File.read(own.secrets_key_file)
      2.times { described_class.new(own).begin }
      expect(described_class.new(own).carry_out).to eq(2)
      expect([read(own), Dir.children(File.dirname(own.secrets_key_file))]).to eq([["JBSWY3DPEHPK3PXP", signing], ["secrets"]])
      expect(File.read(own.secrets_key_file)).not_to eq(first)
      expect { described_class.new(settings(secrets: "x")).begin }.to raise_error(EstrelServer::Error, /ESTREL_SECRETS_KEY_BEFORE/)
      expect { described_class.new(EstrelServer.settings).begin }.to raise_error(EstrelServer::Error, /stop Estrel first/)
    ensure
      FileUtils.rm_rf(var)
    end

    it "leaves no model with secrets out" do
      Zeitwerk::Loader.eager_load_all
      expect(described_class.models).to match_array(EstrelServer::Record.descendants.select { |model| model.encrypted_attributes&.any? })
    end
  end
end
