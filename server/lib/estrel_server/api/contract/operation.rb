# frozen_string_literal: true

module EstrelServer
  module API
    class Contract
      # One operation of the description, and the requests that keep to it.
      class Operation
        JSON_TYPE = "application/json"

        # @param contract [Contract]
        # @param pointer [Array<String>] to the operation
        def initialize(contract, pointer)
          @contract = contract
          @pointer = pointer
          described = contract.at(pointer)
          @parameters = (described["parameters"] || []).each_with_index.filter_map do |node, index|
            parameter = contract.followed(node)
            [parameter["name"], [parameter, schema_pointer(node, index)]] if parameter["in"] == "query"
          end.to_h
          @body = described.dig("requestBody", "content")
        end

        # @return [Boolean]
        def json_body? = !@body.nil? && @body.key?(JSON_TYPE)

        # @return [Boolean] whether it takes a form with files
        def form? = !@body.nil? && @body.key?("multipart/form-data")

        # @param text [String] of the address after the question mark
        # @return [Hash{String => String}] the parameters given; an empty one counts as left out
        # @raise [Broken]
        def query(text)
          given = pairs(text)
          missing = @parameters.each_value.map(&:first).select do |parameter|
            parameter["required"] && !given.key?(parameter["name"])
          end
          raise Broken, "#{Estrel::English.field(missing.first["name"])} is missing" if missing.any?

          given.each { |name, value| check_parameter(name, value) }
        end

        # @param value [Object] parsed JSON
        # @return [Hash] the same
        # @raise [Broken]
        def body(value)
          raise Broken, "the request must be a JSON object" unless value.is_a?(Hash)

          check_scalars(value)
          errors = @contract.faults([*@pointer, "requestBody", "content", JSON_TYPE, "schema"], value)
          return value if errors.empty?

          raise Broken.new(errors.first[:message], errors)
        end

        private

        def schema_pointer(node, index)
          return [*node["$ref"].delete_prefix("#/").split("/"), "schema"] if node.key?("$ref")

          [*@pointer, "parameters", index.to_s, "schema"]
        end

        def pairs(text)
          URI.decode_www_form(text.to_s).each_with_object({}) do |(name, value), found|
            raise Broken, "there is no parameter #{name[0, 60].inspect} here" unless @parameters.key?(name)
            raise Broken, "#{Estrel::English.field(name)} is given more than once" if found.key?(name)

            found[name] = value unless value.empty?
          end
        rescue ArgumentError
          raise Broken, "the address is not encoded as it should be"
        end

        def check_parameter(name, text)
          parameter, pointer = @parameters.fetch(name)
          raise Broken, "#{Estrel::English.field(name)} contains a NUL character" if text.include?("\0")

          value = typed(text, @contract.followed(parameter["schema"]))
          fault = value.nil? ? nil : @contract.faults(pointer, value).first
          return unless value.nil? || fault

          schema = @contract.followed(parameter["schema"])
          expected = fault ? fault[:message].delete_prefix("this ") : Estrel::SchemaFault.type(schema)
          raise Broken, "#{Estrel::English.field(name)} #{expected}#{", not #{text[0, 40].inspect}" unless fault}"
        end

        def typed(text, schema)
          case schema["type"]
          when "integer" then Integer(text, 10) if INTEGER.match?(text)
          when "number" then Float(text) if NUMBER.match?(text)
          when "boolean" then { "true" => true, "false" => false }[text]
          else text
          end
        end

        # What no field of any body can be, whatever its schema says.
        #
        # @param field [String] what the value is called: entries of a list are called by the list
        def check_scalars(value, field = "the request")
          case value
          when Hash
            value.each do |name, inner|
              raise Broken, "a name in #{field} contains a NUL character" if name.include?("\0")

              check_scalars(inner, Estrel::English.field(name))
            end
          when Array then value.each { |inner| check_scalars(inner, field) }
          when String then raise Broken, "#{field} contains a NUL character" if value.include?("\0")
          when Integer then raise Broken, "#{field} is too large a number" unless INTEGERS.cover?(value)
          when Float then raise Broken, "#{field} is not a finite number" unless value.finite?
          end
        end
      end
    end
  end
end
