# frozen_string_literal: true

require "axe-rspec"
require "capybara/rspec"
require "fileutils"
require "net/http"
require "socket"
require "tmpdir"

ROOT = File.expand_path("../../..", __dir__)
require_relative "running_estrel"
RunningEstrel.make_demo
ENV["ESTREL_VAR"] = RunningEstrel::VAR
ENV["ESTREL_ANSWERING_PROCESSES"] = "1"
%w[ESTREL_PORT ESTREL_COLLECTOR_PORT ESTREL_STAND_IN_PORT].each { |name| ENV[name] = RunningEstrel.free_port }
# Passkeys belong to a name.
ENV["ESTREL_PUBLIC_URL"] = "http://localhost:#{ENV.fetch("ESTREL_PORT")}"

require_relative "../../../core/spec/support/checks"
require_relative "../../lib/estrel_server"
require_relative "../../../demo/lib/ferrowick"
require_relative "../../../stand_in/lib/ferrowick_post"
require_relative "../support/chromium"

# No page has frames. The other way of looking opens a window each time and gives it one second to load.
Axe::Configuration.instance.legacy_mode = true

DOWNLOADS = Dir.mktmpdir("estrel-downloads")

Capybara.register_driver(:chromium) do |app|
  options = Chromium.options(downloads: DOWNLOADS)
  options.add_option("goog:loggingPrefs", { browser: "ALL" })
  Capybara::Selenium::Driver.new(app, browser: :chrome, options: options, service: Chromium.service)
end
Capybara.default_driver = :chromium
Capybara.run_server = false
Capybara.enable_aria_label = true
# On a busy machine an answer over a quarter of a year takes longer than 20 s.
Capybara.default_max_wait_time = 40
# Asking the browser again and again takes from it what it needs for getting on.
Capybara.default_retry_interval = 0.1

# What the specs ask the core, to compare with the screen.
module CoreAnswers
  def generation = EstrelServer.ledger.current

  def rule_set = Estrel::Lifecycle::RuleSet.new(**EstrelServer::Demo::RULE_SETS["Riders"].transform_keys(&:to_sym))

  def as_of = Ferrowick::LAST_DAY

  def lifecycle = Estrel::Lifecycle.new(generation, rule_set)

  def members(json, on: as_of)
    audiences = Estrel::Audience::AudienceSource.new(generation.catalogue, ->(id) { kept(id) })
    definition = Estrel::Audience::Definition.parse(json, catalogue: generation.catalogue, audiences: audiences)
    Estrel::Audience::Evaluator.new(generation, as_of: on, rule_set: rule_set).members(definition)
  end

  # What an analysis answers as of the newest day.
  def analysed(name, question = {})
    last = generation.newest_day
    workspace = Estrel::Analyses::Workspace.new(ledger: generation, as_of: last, today: last + 1, rules: rule_set)
    Estrel::Analyses.named(name).ask(JSON.parse(JSON.generate(question)), workspace).over
  end

  # An audience as the API tells it.
  def kept(id)
    api(:get, "/audiences/#{id}").values_at("name", "definition")
  end

  # What the API answers beside the browser.
  def api(method, path, body = nil)
    uri = URI("#{Capybara.app_host}/api#{path}")
    request = Net::HTTP.const_get(method.to_s.capitalize).new(uri, "content-type" => "application/json", "authorization" => "Bearer #{ESTREL.token}")
    request.body = JSON.generate(body) if body
    JSON.parse(Net::HTTP.start(uri.host, uri.port) { |http| http.request(request) }.body)
  end

  # The run whose page is open, made today, as if it had exported at the end of a day that the demo's data know.
  def exported_on(date)
    EstrelServer::Database::Store.connect
    last = Time.at((generation.calendar.end_of(date) / 1_000_000) - 1).utc
    EstrelServer::ExportRun.find(page.current_path[/\d+\z/]).update!(exported_at: last)
  end

  def shown(number) = number.to_s.reverse.scan(/\d{1,3}/).join(",").reverse
end

# What is done again and again in the sentence editor.
module Editing
  def change(phrase) = first("button[aria-label^='#{phrase}']").click

  def choose_option(label, text)
    within("[data-part='content'][data-state='open']") { find("[role='listbox'][aria-label='#{label}'] [role='option']", text: text).click }
    close if page.has_css?("[data-part='content'][data-state='open']", wait: 0.2)
  end

  # Begins a condition with its first choice, which opens by itself.
  def start(offer, label, option)
    size
    click_button offer
    take(label, option)
  end

  def take(label, option) = find("[role='listbox'][aria-label='#{label}'] [role='option']", text: option).click

  # Chooses something to be added to a list, and adds it.
  def add(text, what)
    select text, from: "Add #{what}"
    click_button "Add #{what}, as chosen"
  end

  def close = send_keys(:escape)

  def size = find("[data-testid='size'][data-stale='false']").text.delete(",").to_i

  def say(text) = have_css("[data-testid='line']", text: text, normalize_ws: true)

  # By a cookie, in a window of one size, which keeps the focus though a download takes it away.
  def sign_in
    Chromium.resize(page.driver.browser, 1280, 800)
    page.driver.browser.execute_cdp("Emulation.setFocusEmulationEnabled", enabled: true)
    page.driver.browser.execute_cdp("Network.setCookie", url: ESTREL.address, name: "estrel_session", value: ESTREL.session, httpOnly: true)
  end

  def sign_in_to_demo
    click_button "Open demo"
    expect(page).to have_css("nav[aria-label='Main navigation']")
  end

  # The browser's log holds nothing but the errors that a spec provokes, and 429 from a busy server, which is retried.
  def quiet_browser(but: /favicon|422|404|409|401/)
    messages = page.driver.browser.logs.get(:browser).map(&:message).grep_v(but).grep_v(/ 429 /)
    expect(messages).to eq([])
  end
end

# Pages are looked at once what they are about is there: one that is still being fetched has no heading yet.
module Looking
  def be_axe_clean
    expect(page).to have_css("h1")
    # Of what is in order nothing needs to come back.
    super.with_options(resultTypes: ["violations"])
  end
end

# A window of one size with nothing in the comparison, in which nothing goes wrong.
RSpec.shared_context "with a clear desk" do
  before do
    sign_in
    page.driver.browser.execute_cdp("Storage.clearDataForOrigin", origin: ESTREL.address, storageTypes: "local_storage")
  end

  after { quiet_browser }
end

ESTREL = RunningEstrel.new
at_exit do
  Capybara.current_session.quit
  ESTREL.stop
  FileUtils.rm_rf(DOWNLOADS)
end

RSpec.configure do |config|
  config.include CoreAnswers
  config.include Editing
  config.include Looking
  config.before(:suite) do
    ESTREL.start
    Capybara.app_host = ESTREL.address
    ESTREL.token
  end
  # What stood there when an example failed, since nobody can look any more.
  config.after do |example|
    next unless example.exception

    RSpec.configuration.reporter.message("#{page.current_url}\n#{page.text[0, 5000].gsub(/^/, "  | ")}")
  rescue Selenium::WebDriver::Error::WebDriverError => e
    RSpec.configuration.reporter.message(e.message)
  end
end
