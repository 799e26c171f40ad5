# frozen_string_literal: true

module EstrelServer
  module API
    # Studies of several audiences: how they overlap, and what they are made of.
    class StudiesEndpoint < Endpoint
      post("/studies/overlap", role: "viewer", scope: "read", personal: "none") do
        found = audiences(2..Estrel::Audience::Overlap::MOST)
        asked = question(given)
        study = Estrel::Audience::Overlap.new(asked.evaluator, found.map(&:last), split: split)
        respond(answer(asked, study, found))
      end

      post("/studies/breakdown", role: "viewer", scope: "read", personal: "none") do
        found = audiences(0..2)
        raise Problem.new(422, "say what to split by") unless split

        definitions = found.empty? ? [parse_definition({ "all" => [] })] : found.map(&:last)
        asked = question(given)
        study = Estrel::Audience::Breakdown.new(asked.evaluator, definitions, split, top: top)
        respond(answer(asked, study, found))
      end

      post("/studies/before-after", role: "viewer", scope: "read", personal: "none") do
        asked = question(given)
        outcome = given["measure"] || {}
        measure = Estrel::BeforeAfter::Measure.new(generation.catalogue, outcome["event"], outcome["of"])
        study = Estrel::BeforeAfter.new(asked.whole, start(asked), measure, before: given["before"],
                                                                            after: given["after"])
        respond({ as_of: asked.as_of, **study.to_h })
      end

      private

      # Day 0: of who did something for the first time, or a date for all of an audience.
      def start(asked)
        if given["first"]
          selection = Estrel::Audience::Selection.parse(given["first"], generation.catalogue)
          range = %w[from to].map { |name| day(given[name], name) }
          return Estrel::BeforeAfter::Start.first(selection, *range)
        end
        date = day(given["date"], "date")
        raise Problem.new(422, "the date lies after #{asked.as_of}") if date > asked.as_of
        return Estrel::BeforeAfter::Start.date(date) unless given["audience"]

        audience = Audience.kept.find(given["audience"])
        Estrel::BeforeAfter::Start.date(date, parse_definition(audience.current.definition), name: audience.name)
      end

      def audiences(number)
        found = tray(Array(given["audiences"]).join(","))
        return found if number.cover?(found.size)

        raise Problem.new(422, "choose #{number.min} to #{number.max} audiences, not #{found.size}")
      end

      def answer(asked, study, found)
        ids = found.map(&:first)
        names = Audience.where(id: ids).pluck(:id, :name).to_h
        { as_of: asked.as_of, known_on: asked.known_on, ids: ids, names: names.values_at(*ids),
          takeaway: study.takeaway(names.values_at(*ids)), **study.to_h }
      end

      def split
        json = given["by"] or return
        unless json.is_a?(Hash) && json.size == 1
          raise Problem.new(422, "by is an object such as {\"attribute\": \"plan\"}")
        end

        @split ||= Estrel::Audience::Split.parse(json, generation.catalogue)
      end

      def top
        number = given.fetch("top", Estrel::Audience::Breakdown::TOP)
        return number if number.is_a?(Integer) && number.between?(1, 200)

        raise Problem.new(422, "top is a number from 1 to 200")
      end
    end
  end
end
