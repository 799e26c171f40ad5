# frozen_string_literal: true

require "sinatra/base"

module EstrelServer
  module API
    # What all parts of the HTTP API share: routes that say who may ask, requests checked against the description, JSON
    # in and out, errors as problem details (RFC 9457), and the as-of date, rule set and ledger generation of a request.
    class Endpoint < Sinatra::Base
      MAX_BODY = 1 << 20
      UNREADABLE = "the request cannot be read; check how it is encoded"
      private_constant :UNREADABLE
      ID = /[1-9]\d{0,17}/

      # A request that cannot be answered, with its HTTP status and, where there are several, the faults.
      class Problem < StandardError
        # @return [Integer]
        attr_reader :status
        # @return [Array<Hash>]
        attr_reader :errors

        def initialize(status, detail, errors = [])
          @status = status
          @errors = errors
          super(detail)
        end
      end

      configure do
        set :show_exceptions, false
        set :raise_errors, false
        set :dump_errors, false
        set :protection, false # stands once before all parts, see Application
        set :host_authorization, {}
      end

      class << self
        # @return [Hash{Array(String, String) => Access::Rule}] verb and path of every route, with what it declares
        def rules = @rules ||= {}

        private

        # Every route declares who may ask ({Access::Rule}); who does is judged once the route has been found, on its
        # own form of the address.
        def route(verb, path, options = {}, &)
          rule = Access::Rule.new(**options)
          rules[[verb, path]] = rule unless verb == "HEAD"
          operation = Contract.published.operation(verb == "HEAD" ? "GET" : verb, path)
          raise ArgumentError, "#{verb} #{path} is not described in #{Description::FILE}" unless operation

          named = path.scan(/:([a-z_]+)/).flatten # linear: our own paths
          condition do
            request.env[Figures::Requests::ROUTE] = path
            admit(rule)
            keep_to(operation, named)
            take_turn if rule.heavy?
          end
          # A number in an address is written in one way only, see {Access::Gate}.
          super(verb, path, { mustermann_opts: { capture: named.to_h { |name| [name.to_sym, ID] } } }, &)
        end
      end

      after { note_in_log if @rule&.log && response.successful? }

      error(Problem) { |e| problem(e.status, e.message, e.errors) }
      error(Contract::Broken) { |e| problem(422, e.message, e.errors) }
      error(Sinatra::BadRequest) { problem(400, UNREADABLE) }
      error(ActiveRecord::RecordNotFound) { problem(404, "not found") }
      error(Estrel::Audience::Invalid) { |e| problem(422, "the definition cannot be used", e.errors) }
      error(Estrel::Analyses::Invalid) { |e| problem(422, e.message, e.errors) }
      error(Estrel::Lifecycle::RuleSet::Invalid) { |e| problem(422, "the rule set cannot be used", e.errors) }
      error(Estrel::Ledger::Missing) do
        there = Profile.exists?
        problem(409, there ? "the data is being rebuilt; try again in a moment" : "no data has been imported yet")
      end
      error(Database::Lease::Busy) do
        problem(409, "another request is changing the same at the moment; try again in a moment")
      end
      error(Error, Estrel::Error) { |e| problem(422, e.message) }
      error(ActiveRecord::RecordInvalid) { |e| problem(422, e.record.errors.full_messages.join("; ")) }
      error(ActiveRecord::RecordNotUnique) { problem(409, "someone else just created this; reload") }
      error(*Database::Store::AWAY) { problem(503, "the database does not answer; try again in a moment") }
      error(ActiveRecord::LockWaitTimeout) do
        problem(409, "another change is being stored at the moment; try again in a moment")
      end
      error(Errno::ENOSPC) { problem(503, Problems::DISK_FULL) }
      error(ActiveRecord::StatementInvalid) do |e|
        Log.error("the database refused a statement", e)
        Problems.disk_full?(e) ? problem(503, Problems::DISK_FULL) : problem(500, Problems.unforeseen)
      end
      error do |e|
        problem(400, UNREADABLE) if e.is_a?(Rack::BadRequest)
        Log.error("a request could not be answered", e)
        problem(500, Problems.unforeseen)
      end
      not_found { problem(404, "not found") if response.body.empty? }

      private

      def problem(status, detail, errors = [])
        content_type API::Problems::TYPE
        halt status, JSON.generate(API::Problems.to_h(status, detail, errors))
      end

      def admit(rule)
        @rule = rule
        bearer = Access::Current.bearer
        refusal = rule.refusal(bearer) or return
        raise Problem.new(bearer ? 403 : 401, refusal)
      end

      # From here on `params` holds what the address says and the description knows, and nothing else.
      def keep_to(operation, named)
        unless Rack::Utils.unescape(request.query_string).valid_encoding?
          raise Problem.new(400, "the address is not valid UTF-8")
        end

        form = operation.form? ? request.POST : {}
        @params = Sinatra::IndifferentHash.new.merge!(form).merge!(operation.query(request.query_string))
                                          .merge!(params.slice(*named))
        @given = operation.body(body_json) if operation.json_body?
      end

      # The body of the request, which keeps to its schema.
      attr_reader :given

      def note_in_log
        Access::Current.account && AuditEntry.add(@rule.log, who: Access::Current.account.email, from_address: peer,
                                                             about: "#{request.request_method} #{request.path_info}")
      end

      def peer = request.env["REMOTE_ADDR"].to_s

      # See {Answers::Turns}.
      def take_turn
        throw(Answers::Turns::KEY, Access::Current.account.id) if request.env[Answers::Turns::KEY]
      end

      # Runs the block while no other request runs one of this name: for rules that count rows, or look whether there is
      # one, before one is stored.
      def one_at_a_time(name, &) = Database::Lease.new(name).hold(wait: 5, &)

      def respond(object, status: 200)
        respond_with_json(JSON.generate(object), status)
      end

      def respond_with_json(text, status = 200)
        content_type :json
        halt status, text
      end

      # Who makes a version.
      def author = Access::Current.account&.email.to_s[0, 100]

      def instant(time) = time&.iso8601(6)

      def body_json
        raise Problem.new(415, "send the request as application/json") unless request.media_type == "application/json"

        text = (+request.body.read(MAX_BODY + 1).to_s).force_encoding(Encoding::UTF_8)
        raise Problem.new(413, "the request is longer than #{MAX_BODY} bytes") if text.bytesize > MAX_BODY
        raise Problem.new(400, "the request is not valid UTF-8") unless text.valid_encoding?

        parsed(text)
      end

      def parsed(text)
        JSON.parse(text, max_nesting: Estrel::Audience::Document::MAX_JSON_NESTING + 2)
      rescue JSON::NestingError
        raise Problem.new(422, "the request is nested too deeply")
      rescue JSON::ParserError
        raise Problem.new(400, "the request is not valid JSON")
      end

      # The ledger that whoever asks may put questions to.
      def generation = @generation ||= Access::Disclosure.ledger(whole_generation)

      def whole_generation = @whole_generation ||= EstrelServer.ledger.current

      # @return [Integer] a number in the path
      def path_id(name = "id") = Integer(params.fetch(name), 10)

      # The rule set record this request is about: the one named, or else the default one.
      def rule_set_record(named = params["rule_set"])
        @rule_set_record ||= named.nil? ? RuleSet.current : RuleSet.kept.find(named)
      end

      # Its rules, read with all there is: they are everybody's. Where the default ones cannot be used, only what needs
      # them says so; see {#no_rules}.
      def rule_set(named = params["rule_set"])
        record = rule_set_record(named)
        @rule_set ||= Answers::Asking.rule_set(record.rules_json, whole_generation.catalogue, of: record)
      rescue Estrel::Lifecycle::RuleSet::Invalid => e
        raise if named

        @rule_set_fault = e.errors.first[:message]
        nil
      end

      # @return [String] why there is no rule set
      def no_rules
        return "no event type counts as activity yet; import events or choose some" unless @rule_set_fault

        "the default rule set cannot be used: #{@rule_set_fault}; edit it or choose another default"
      end

      def today = Workspace.current.today

      def default_as_of = [generation.newest_day || today, today].min

      def as_of(text = params["as_of"])
        return default_as_of if text.nil? || text.empty?

        day(text, "as_of").tap do |date|
          next unless date > today

          asked, latest = [date, today].map { |any| Estrel::English.date(any) }
          raise Problem.new(422, "#{asked} is in the future; choose a date up to #{latest}")
        end
      end

      def day(text, name)
        Date.strptime(text, "%Y-%m-%d")
      rescue Date::Error, TypeError
        label = Estrel::English.field(name)
        raise Problem.new(422, "#{label} must be a date such as 2026-05-31, not #{text.to_s[0, 40].inspect}")
      end

      def whole(name, default, range)
        text = params[name] or return default
        number = Integer(text, 10, exception: false)
        return number if number && range.cover?(number)

        raise Problem.new(422,
                          "#{Estrel::English.field(name)} must be a whole number from #{range.min} to #{range.max}")
      end

      def one_of(name, allowed)
        value = params[name]
        return value if value.nil? || allowed.include?(value)

        raise Problem.new(422, "#{Estrel::English.field(name)} must be one of #{allowed.join(", ")}")
      end

      # The question of this request: as of its date, using data received by its date, for as long as it is waited for.
      def question(json = params)
        known = json["received_by"].to_s.empty? ? nil : day(json["received_by"], "received_by")
        Answers::Question.new(generation, as_of: as_of(json["as_of"]), rule_set: rule_set(json["rule_set"]),
                                          received_by: known, cancelled: method(:given_up?))
      end

      def given_up?
        socket = request.env["puma.socket"]
        !socket.nil? && Answers::Asker.gone?(socket)
      end

      # The audiences compared by, as named in `compare`: numbers of kept audiences with their definitions.
      def compared(text = params["compare"])
        ids = text.to_s.split(",").map { |number| Integer(number, 10, exception: false) }
        if ids.size > Estrel::Analyses::Overlap::MOST || ids.include?(nil) || ids.uniq.size != ids.size
          raise Problem.new(422,
                            "compare names up to #{Estrel::Analyses::Overlap::MOST} audiences by number, such as 3,5")
        end

        ids.map { |id| [id, parse_definition(Audience.kept.find(id).current.definition)] }
      end

      # @param of [Audience, nil] whose definition it is going to be
      def parse_definition(json, of: nil)
        raise Problem.new(422, "a definition is missing") if json.nil?

        Answers::Asking.definition(json, generation.catalogue, of: of)
      end
    end
  end
end
