# frozen_string_literal: true

require "cgi"
require "stringio"
require "zlib"
require_relative "scratch"
require_relative "crash_stack"
require_relative "supervised_estrel"
require_relative "request_fuzzer"
require_relative "json_fuzzer"
require_relative "attack_in_bulk"
require_relative "attack_on_access"
require_relative "attack_on_storage"

# Attacks a whole Estrel of its own over HTTP, by its files and by its processes, and tells what gave way. Each attack
# gives how often something was tried and what went through.
class Attack
  include AttackInBulk
  include AttackOnAccess
  include AttackOnStorage

  ATTACKS = { odd_spellings: "odd spellings of every address", strangers: "every operation as nobody, and as a viewer what takes more", tokens: "tokens that widen themselves",
              guesses: "guessed passwords, from changing addresses", random_requests: "random requests to every operation", long_questions: "questions made long to be slow",
              questions_at_once: "many questions at once, beside somebody else's light one", unread_downloads: "downloads that nobody reads", large_bodies: "bodies of strangers without end, by length and in chunks",
              random_events: "random events at the collector", endless_file: "a file whose quote never closes, cancelled", blank_lines: "a file of blank lines, cancelled", slow_receiver: "a destination that answers by the byte, cancelled",
              passkey_challenges: "challenges of passkeys for something else, or again", accounts_from_elsewhere: "an account that another workspace set up",
              odd_addresses: "odd addresses of pages, destinations and messages", demotions: "administrators who demote each other at once", live_feeds: "live feeds without end", erased_people: "exports while people in them are erased",
              held_locks: "rows of every table that is written to, held", full_disk: "a full disk", damaged_ledger: "a damaged ledger",
              readable_files: "files that others could read", the_log: "doing away with the log", kills: "kill -9 of every process under load" }.freeze
  REQUESTS = 2_500
  EVENTS = 3_000
  SPELLINGS = [->(path) { "#{path}/" }, ->(path) { "/#{path}" }, ->(path) { path.sub(/\d+/, '+\0') }, ->(path) { path.sub(/\d+/, '%20\0') }, ->(path) { path.sub(/\d+/, '0\0') },
               ->(path) { path.sub(/\d+/, '\0%0A') }, ->(path) { path.sub(/\d+/, '\0_0') }, ->(path) { path.sub(/[a-z]/) { |letter| "%#{letter.ord.to_s(16)}" } },
               ->(path) { path.sub(%r{(?<=\w)/}, "%2f") }, ->(path) { "/x/..#{path}" }, ->(path) { "/.#{path}" }, lambda(&:upcase)].freeze

  def initialize(directory, description)
    @estrel = SupervisedEstrel.new(directory)
    # Passkeys belong to a name.
    stack.settle({ "ESTREL_PUBLIC_URL" => "http://localhost:#{stack.settings.port}" })
    @directory = directory
    @description = description
    @random = Random.new(7)
  end

  # @yieldparam what [String]
  # @yieldparam tried [Integer]
  # @yieldparam gave_way [Array<String>]
  # @yieldparam seconds [Float]
  def run
    @estrel.start
    raise "Estrel did not start: #{@estrel.last_status}" unless @estrel.wait(90) { @estrel.served? }

    prepare
    ATTACKS.each do |name, what|
      started = now
      tried, gave_way = send(name)
      yield what, tried, gave_way, now - started
    end
  ensure
    @estrel.stop
  end

  private

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  def stack = @estrel.stack

  def prepare
    EstrelServer::Database::Store.connect(stack.settings)
    @admin = stack.token
    @estrel.begin_load
    @estrel.wait(30) { @estrel.acknowledged.size > 200 && @estrel.served?(200) }
    @viewer = %w[viewer].to_h { |role| [role, token(role)] }["viewer"]
    post("/audiences", { name: "Everybody", definition: { all: [] } })
  end

  def token(role)
    stack.estrel("account", "add", "#{role}@estrel.example", "--role", role)
    stack.estrel("account", "token", "#{role}@estrel.example", "--scopes", "read", "write", "administer")[/et_\S+/]
  end

  # A request that is sent as it is written.
  def ask(verb, path, body = nil, type: "application/json", token: @admin, address: "/api#{path}", **headers)
    socket = TCPSocket.new("127.0.0.1", stack.settings.port)
    given = { "Host" => "127.0.0.1", "Connection" => "close", "Authorization" => token && "Bearer #{token}", **headers.transform_keys { |name| name.to_s.tr("_", "-") } }
    if body
      given["Content-Type"] = type
      given["Content-Length"] = body.bytesize
    end
    lines = ["#{verb.upcase} #{address} HTTP/1.1", *given.compact.map { |name, value| "#{name}: #{value}" }]
    socket.write("#{lines.join("\r\n")}\r\n\r\n#{body}")
    answer = socket.read
    [answer[%r{\AHTTP/1.1 (\d+)}, 1].to_i, answer.partition("\r\n\r\n").last]
  rescue SystemCallError, EOFError
    [0, ""]
  ensure
    socket&.close
  end

  def post(path, json, **headers) = ask("post", path, JSON.generate(json), **headers)

  def operations = @operations ||= RequestFuzzer.new(@description, 7).operations

  def odd_spellings
    gave_way = operations.flat_map do |verb, path, _|
      plain = path.gsub(/\{\w+\}/, "1")
      SPELLINGS.map { |spelling| spelling.call(plain) }.uniq.reject { |odd| odd == plain }.product([nil, @viewer, @admin]).filter_map do |odd, bearer|
        @tried = @tried.to_i + 1
        status, = ask(verb, odd, verb == "get" ? nil : "{}", token: bearer)
        "#{verb} #{odd}: #{status}" unless [404, 400].include?(status)
      end
    end
    [@tried, gave_way]
  end

  def strangers
    open = %w[/session /session/demo /session/link /session/passkey /session/passkey/begin /schemas/audience-definition.json]
    rules = EstrelServer::Application::ENDPOINTS.flat_map { |endpoint| endpoint.rules.to_a }.to_h { |(verb, path), rule| ["#{verb.downcase} #{path.gsub(/:(\w+)/, '{\1}')}", rule] }
    asked = operations.reject { |_, path, _| open.include?(path) }
    gave_way = asked.flat_map do |verb, path, _|
      where = path.gsub(/\{\w+\}/, "987654321")
      nobody, = ask(verb, where, verb == "get" ? nil : "{}", token: nil)
      viewer, = ask(verb, where, verb == "get" ? nil : "{}", token: @viewer)
      more = %w[analyst administrator].include?(rules.fetch("#{verb} #{path}").role)
      found = { "nobody" => [nobody, 401], "viewer" => [viewer, more ? 403 : viewer] }.reject { |_, (status, wanted)| status == wanted }
      found.map { |who, (status, _)| "#{verb} #{path} as #{who}: #{status}" }
    end
    [asked.size * 2, gave_way]
  end

  def tokens
    tried = [["post", "/account/tokens", { name: "x", scopes: ["administer"] }], ["put", "/account/password", { password: "another long password" }],
             ["post", "/accounts", { email: "e@estrel.example", role: "administrator" }], ["put", "/accounts/1", { role: "administrator" }], ["post", "/accounts/1/link", {}]]
    gave_way = tried.product([@viewer, @admin]).filter_map do |(verb, path, body), bearer|
      status, = ask(verb, path, JSON.generate(body), token: bearer)
      "#{verb} #{path}: #{status}" unless status == 403
    end
    [tried.size * 2, gave_way]
  end

  def guesses
    statuses = Array.new(60) do |index|
      post("/session", { email: ["viewer@estrel.example", " VIEWER@estrel.example"][index % 2], password: "guess #{index}", padding: "p" * (index * 500) },
           token: nil, x_forwarded_for: "198.51.100.#{index}", client_ip: "198.51.100.#{index}").first
    end
    [60, statuses.include?(200) || statuses.count(401) > 12 ? ["#{statuses.count(401)} guesses were looked at"] : []]
  end

  def random_requests
    fuzzer = RequestFuzzer.new(@description, @random.rand(1 << 30))
    # Events are not removed, by their age either, and the keys of sources stay, since the load goes on.
    left_out = [%w[post /workspace/clear], %w[post /people/{id}/erase], %w[delete /session], %w[put /workspace]]
    asked = operations.reject { |verb, path, _| left_out.include?([verb, path]) || path == "/live-events/live" || path.start_with?("/sources/") }
    gave_way = Array.new(REQUESTS) { |index| fuzzer.request(*asked[index % asked.size]) }.filter_map do |verb, path, type, body|
      started = now
      status, = ask(verb, path.delete("\r\n "), body, type: type || "application/json")
      took = now - started
      "#{verb} #{path[0, 200]}: #{status} after #{took.round(1)} s" if status.zero? || status >= 500 || took > 2
    end
    [REQUESTS, gave_way]
  end

  def long_questions
    texts = ["a@" * 120_000, "+1 " * 80_000, "(" * 240_000, "\"" * 240_000]
    gave_way = texts.filter_map do |text|
      started = now
      status, = post("/audiences/preview", { definition: { all: [{ attribute: { name: text, compare: "is", value: text } }] } }, token: @viewer)
      "#{text[0, 5]}…: #{status} after #{(now - started).round(1)} s" if now - started > 2 || status >= 500
    end
    [texts.size, gave_way]
  end

  def random_events
    fuzzer = JsonFuzzer.new(@random.rand(1 << 30))
    uri = URI("#{stack.collector}/events")
    headers = { "authorization" => "Bearer #{@estrel.key}", "content-type" => "application/cloudevents+json" }
    gave_way = Net::HTTP.start(uri.host, uri.port) do |http|
      Array.new(EVENTS) { |number| fuzzer.event("attack-#{number}") }.filter_map do |text|
        status = http.post("/events", text, headers).code.to_i
        "#{text[0, 200].scrub}: #{status}" unless [200, 400, 422].include?(status)
      end
    end
    unless @estrel.wait(20) { @estrel.served?(@estrel.acknowledged.size) }
      gave_way << "not served any more: #{@estrel.last_status}"
    end
    [EVENTS, gave_way]
  end

  def damaged_ledger
    tried = [->(path) { File.delete(path) }, ->(path) { File.write(path, "") }].map do |damage|
      ledger = File.join(@directory, "ledger")
      manifest = Estrel::Ledger::Manifest.read(File.join(ledger, File.read(File.join(ledger, "CURRENT")).strip))
      damage.call(File.join(ledger, manifest.pieces.first.files.fetch("reach")))
      @estrel.wait(15) { @estrel.served?(@estrel.acknowledged.size) } ? nil : "not served any more: #{@estrel.last_status}"
    end
    [tried.size, tried.compact]
  end

  def readable_files
    files = Dir.glob("#{@directory}/**/*", File::FNM_DOTMATCH).reject { |path| File.socket?(path) }
    [files.size, files.reject { |path| kept_from_others?(path) || (File.dirname(path) == @directory && File.basename(path) == "log") }]
  rescue Errno::ENOENT
    retry # the ledger's files come and go
  end

  # By its own mode, or by that of a directory it is in: the database lets everybody read what it writes for us.
  def kept_from_others?(path)
    way = path.delete_prefix("#{@directory}/").split("/").inject([@directory]) { |paths, name| [*paths, File.join(paths.last, name)] }.drop(1)
    way.any? { |part| File.stat(part).mode.nobits?(0o077) }
  end

  def the_log
    tried = ["DROP TRIGGER audit_entries_stay_update", "DROP TABLE audit_entries", "TRUNCATE TABLE audit_entries", "DELETE FROM audit_entries", "UPDATE audit_entries SET who = 'nobody'",
             "ALTER TABLE audit_entries DROP COLUMN who", "RENAME TABLE audit_entries TO gone"]
    gave_way = tried.filter_map do |statement|
      stack.query(statement)
      statement
    rescue Trilogy::Error
      nil
    end
    [tried.size, gave_way]
  end

  def kills
    victims = [*@estrel.pids.keys, "database"]
    gave_way = victims.filter_map do |victim|
      before = @estrel.pids
      acknowledged = @estrel.acknowledged.size
      Process.kill("KILL", before.fetch(victim))
      sleep 0.5
      back = @estrel.wait(15) { @estrel.served?(acknowledged) }
      unless back && @estrel.pids.except(victim) == before.except(victim)
        "#{victim}: #{back ? "took others with it" : @estrel.last_status}"
      end
    end
    @estrel.end_load
    lost = @estrel.acknowledged - @estrel.stored
    [victims.size, gave_way + lost.first(5).map { |id| "event #{id} was acknowledged and is lost" }]
  end
end
