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
end
