# frozen_string_literal: true

require_relative "server_helper"
require "open3"

RSpec.describe EstrelServer::DefinitionFiles do
  include ApiHelper

  let(:root) { Dir.mktmpdir }

  before { fill }

  after { FileUtils.rm_rf(root) }

  def rides(count) = { "all" => [{ "did" => { "event" => "ride_ended", "count" => { "at_least" => count }, "window" => { "last_days" => 30 } } }] }

  def audience(name, definition, **more) = call(:post, "/audiences", { name: name, definition: definition, **more })

  # One that is of another, under rules that are of a third, and groups.
  def make_some
    base = audience("Base", rides(1), folder: "Riders")
    rules = call(:post, "/rule-sets", { name: "Strict", activity: ["ride_ended"], new_for: 3, active_within: 5, churned_after: 9, population: base["id"] })
    audience("Of both", { "all" => [{ "audience" => { "id" => base["id"], "on" => "2026-05-04" } }, { "lifecycle" => { "is" => ["active"], "rule_set" => { "id" => rules["id"] } } }] })
    call(:post, "/groupings", { name: "Two", groups: [{ name: "few", who: { "not" => rides(3) } }, { name: "many", who: rides(3) }] })
    call(:put, "/audiences/#{audience("Mine", rides(2))["id"]}/sharing", { private: true })
  end

  def apply(keep: true) = described_class::Applying.new(described_class::Document.all(root)).carry_out(keep: keep).map { |done| [done.what, done.kind, done.name] }

  def change(path, &)
    file = File.join(root, path)
    File.write(file, JSON.generate(JSON.parse(File.read(file)).tap(&)))
  end

  def everything
    definitions = EstrelServer::Audience.kept.where(private: false).to_h { |row| [row.name, row.current.said] }
    rules = EstrelServer::RuleSet.kept.to_h { |row| [row.name, [row.default, row.rules_json.except("population")]] }
    [definitions, rules, EstrelServer::Grouping.kept.pluck(:name, :groups)]
  end

  it "writes what is shared by name, makes the same of it elsewhere, and nothing of it the second time" do
    make_some
    before = everything
    expect(described_class::Writing.new.write(root).size).to eq(4)
    expect(Dir.glob("**/*.json", base: root).sort).to eq(%w[audiences/base.json audiences/of-both.json groups/two.json rule-sets/strict.json])
    expect(JSON.parse(File.read(File.join(root, "audiences/of-both.json")))["definition"]["all"])
      .to eq([{ "audience" => { "name" => "Base", "on" => "2026-05-04" } }, { "lifecycle" => { "is" => ["active"], "rule_set" => { "name" => "Strict" } } }])
    EstrelServer::Workspace.clear
    audience("Another", rides(9)) if fill # so that numbers are others
    new = [["new", "audience", "Base"], ["new", "rule_set", "Strict"], ["new", "audience", "Of both"], ["new", "grouping", "Two"]]
    expect(apply(keep: false)).to match_array(new)
    expect(EstrelServer::Audience.pluck(:name)).to eq(["Another"])
    expect(apply).to match_array(new)
    expect(apply.map(&:first).uniq).to eq(["same"])
    EstrelServer::Audience.find_by!(name: "Another").update!(deleted_at: Time.now.utc)
    expect(everything).to eq(before)
    expect(EstrelServer::RuleSet.find_by!(name: "Strict").rules_json["population"]).to eq(EstrelServer::Audience.find_by!(name: "Base").id)
  end

  it "shows what is different, asks, keeps a version, and leaves alone what no file speaks of" do
    make_some
    described_class::Writing.new.write(root)
    change("audiences/base.json") { |json| json["definition"] = rides(4) }
    change("rule-sets/strict.json") { |json| json["churned_after"] = 20 }
    FileUtils.rm(File.join(root, "groups/two.json"))
    run = ->(*words, input: "") { Open3.capture2e({ "ESTREL_VAR" => EstrelServer.settings.var }, File.join(ROOT, "bin/estrel"), *words, stdin_data: input).then { |said, status| [said, status.exitstatus] } }
    said, status = run.call("apply", root, "--check")
    expect([said, status]).to match([/changed: audience "Base"\n  .*→ .*4 times.*changed: rule set "Strict"\n  churned_after: 9 → 20.*differs from the files/m, 1])
    expect(run.call("apply", root, input: "no\n")).to match([/left as it was/, 1])
    expect(EstrelServer::Audience.find_by!(name: "Base").versions.count).to eq(1)
    expect(run.call("apply", root, "--yes")).to match([/done\n\z/, 0])
    expect(run.call("apply", root, "--yes")).to eq(["already matches the files\n", 0])
    expect(EstrelServer::Audience.find_by!(name: "Base").versions.pluck(:number, :author)).to eq([[1, "administrator@estrel.example"], [2, "definition files"]])
    expect(EstrelServer::Grouping.kept.count).to eq(1)
  end

  it "does nothing of files of which one cannot be used, and says which and why" do
    write = ->(path, json) { File.join(root, path).tap { |file| FileUtils.mkdir_p(File.dirname(file)) }.then { |file| File.write(file, json.is_a?(String) ? json : JSON.generate(json)) } }
    of = ->(name) { { "all" => [{ "audience" => { "name" => name } }] } }
    write.call("audiences/good.json", { "name" => "Good", "definition" => rides(1) })
    { "{" => /bad.json is not JSON/, [] => /must be a JSON object/, { "name" => "Bad" } => /bad.json: it lacks definition/, { "name" => "Bad", "definition" => rides(1), "colour" => 1 } => /it has no colour/,
      { "name" => " ", "definition" => rides(1) } => /name must be text/, { "name" => "Good", "definition" => rides(2) } => /two files describe the audience "Good"/,
      { "name" => "Bad", "definition" => { "all" => [{ "did" => { "event" => "flown" } }] } } => /audience "Bad": all\[0\]/, { "name" => "Bad", "definition" => of.call("Nobody") } => /there is no audience "Nobody"/,
      { "name" => "Bad", "definition" => of.call("Bad") } => /audience "Bad"/ }.each do |json, reason|
      write.call("audiences/bad.json", json)
      expect { apply }.to raise_error(EstrelServer::Error, reason)
    end
    write.call("audiences/bad.json", { "name" => "One", "definition" => of.call("Two") })
    write.call("audiences/two.json", { "name" => "Two", "definition" => of.call("One") })
    expect { apply }.to raise_error(EstrelServer::Error, /in a ring: One, Two/)
    expect(EstrelServer::Audience.count).to eq(0)
    expect { described_class::Document.all(File.join(root, "none")) }.to raise_error(EstrelServer::Error, /no directory/)
  end
end
