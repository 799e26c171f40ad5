# frozen_string_literal: true

require_relative "server_helper"

RSpec.describe EstrelServer::Workspaces::Companions do
  let(:place) { Dir.mktmpdir }
  let(:stack) { CrashStack.new(File.join(place, "var")) }

  after do
    stack.stop
    FileUtils.rm_rf(place)
  end

  def shop(*words, **environment)
    IO.popen(stack.environment.merge("ESTREL_WORKSPACE" => "shop", **environment), [File.join(ROOT, "bin/estrel"), *words], err: %i[child out], &:read)
  end

  def follow
    Process.spawn(stack.environment, File.join(ROOT, "bin/estrel"), "ledger", "follow", out: File.join(place, "followed"), err: %i[child out])
  end

  # Processes that belong to another one.
  def companions(pid)
    Dir.glob("/proc/[0-9]*/environ").filter_map do |path|
      path[/\d+/].to_i if File.binread(path).split("\0").include?("ESTREL_COMPANION_OF=#{pid}")
    rescue SystemCallError
      nil
    end
  end

  def wait(seconds = 60)
    (seconds * 5).times { (found = yield) ? (return found) : sleep(0.2) }
    raise "it did not come true: #{File.read(File.join(place, "followed"))}"
  end

  def send_one(key)
    event = { "specversion" => "1.0", "id" => "1", "source" => "till", "type" => "sale", "subject" => "customer:1", "time" => "2026-05-03T10:00:00Z" }
    Net::HTTP.post(URI("#{stack.collector}/events"), JSON.generate([event]), "content-type" => "application/cloudevents-batch+json", "authorization" => "Bearer #{key}").code
  end

  def people(token) = JSON.parse(Net::HTTP.get(URI("#{stack.web}/api/people"), "authorization" => "Bearer #{token}"))["total"]

  it "work in each workspace beside the process of the first one, and end with it or with the workspace" do
    stack.start
    expect(stack.estrel("workspaces", "make", "shop", "--title", "The shop")).to include("shop is open, at http://127.0.0.1:#{stack.settings.port}/w/shop")
    expect(shop("account", "add", "crash@estrel.example", "--role", "administrator")).to include("link/")
    token = shop("account", "token", "crash@estrel.example")[/et_shop\.\S+/]
    key = shop("source", "add", "till")[/ek_shop\.\S+/]
    %i[collector web].each { |part| stack.restart(part) }
    pid = follow
    expect(send_one(key)).to eq("200")
    expect(wait { people(token) }).to eq(1)
    expect(stack.query("SELECT COUNT(*) FROM events")).to eq([[0]])
    Process.kill("KILL", pid)
    Process.wait(pid)
    wait(20) { companions(pid).empty? }

    pid = follow
    wait { companions(pid).any? }
    expect(stack.estrel("workspaces", "remove", "shop", "--yes")).to eq("")
    expect(stack.estrel("workspaces", "archive", "shop")).to eq("shop is archived\n")
    wait(20) { companions(pid).empty? }
    expect(send_one(key)).to eq("401")
    stack.estrel("workspaces", "open", "shop")
    wait { companions(pid).any? }
    Process.kill("TERM", pid)
    Process.wait(pid)
    expect(companions(pid)).to be_empty

    copy = File.join(place, "copy")
    keys = File.join(place, "keys.json")
    stack.estrel("backup", copy, "--keys", keys)
    expect(stack.estrel("verify", copy)).to include("restored as they were")
    elsewhere = { "ESTREL_VAR" => File.join(place, "elsewhere") }
    IO.popen(stack.environment.merge(elsewhere), [File.join(ROOT, "bin/estrel"), "restore", copy, "--keys", keys], &:read)
    expect(shop("ledger", "build", **elsewhere)).to include("1 events in the ledger")
    expect(shop("account", "list", **elsewhere)).to include("crash@estrel.example, administrator")
  end
end
