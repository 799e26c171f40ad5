# frozen_string_literal: true

require_relative "server_helper"
require "open3"

RSpec.describe EstrelServer::CLI::Main do
  def estrel(*arguments, **env)
    said, status = Open3.capture2e(env.transform_keys(&:to_s), File.join(EstrelServer::ROOT, "bin/estrel"), *arguments)
    [said, status.exitstatus]
  end

  it "says in one sentence what is wrong with where things are kept, with a setting and with the database" do
    file = File.join(Dir.tmpdir, "estrel-#{Process.pid}")
    File.write(file, "")
    expect(estrel("source", "list", ESTREL_VAR: file)).to match([/\Athe directory for what Estrel keeps, .*, cannot be used \(.*\); set ESTREL_VAR\n\z/, 1])
    expect(estrel("source", "list", ESTREL_PORT: "no")).to match([/\AESTREL_PORT must be a whole number/, 1])
    expect(estrel("source", "list", ESTREL_DATABASE_URL: "trilogy://nobody@127.0.0.1:1/estrel")).to eq(["the database at ESTREL_DATABASE_URL cannot be reached\n", 1])
    expect(estrel("source", "sing")).to match([/\Achoose one of: list, add, rotate, revoke\n\z/, 1])
  ensure
    FileUtils.rm_f(file)
  end

  it "runs in production mode by default" do
    hook = File.join(Dir.mktmpdir, "environment.rb")
    File.write(hook, "at_exit { warn ['environment:', *ENV.values_at('RACK_ENV', 'APP_ENV')].join(' ') }")
    said = IO.popen({ "RACK_ENV" => nil, "APP_ENV" => nil, "RUBYOPT" => "-r#{hook}" }, [File.join(ROOT, "bin/estrel"), "help"], err: %i[child out], &:read)
    expect(said).to include("environment: production production")
  end
end
