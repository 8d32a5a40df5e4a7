declare module 'dmn-moddle' {
  /** An element of a decision model; what the schema does not know stands in `$attrs` and `extensionElements`. */
  export interface Element {
    readonly $type: string
    $attrs: Record<string, string>
    $parent?: Element
    id?: string
    name?: string
    label?: string
    text?: string
    typeRef?: string
    description?: string
    hitPolicy?: string
    aggregation?: string
    drgElement?: Element[]
    decisionLogic?: Element
    input?: Element[]
    output?: Element[]
    rule?: Element[]
    inputExpression?: Element
    outputValues?: Element
    defaultOutputEntry?: Element
    inputEntry?: Element[]
    outputEntry?: Element[]
    annotationEntry?: Element[]
    extensionElements?: Element
    width?: number
    [more: string]: unknown
  }
  export class DmnModdle {
    fromXML(xml: string): Promise<{ rootElement: Element; warnings: readonly { message: string }[] }>
    toXML(element: Element, options?: { format?: boolean }): Promise<{ xml: string }>
    create(type: string, attributes?: Readonly<Record<string, unknown>>): Element
  }
}
