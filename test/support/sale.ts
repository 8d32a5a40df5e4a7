/** A colony sale as a program sends it: groups, a list, numbers as numbers. */
export const saleOf = (name: string, more: object = {}) => ({
  buyer: {
    name,
    contact: 'Ottilie Crane',
    email: 'ottilie.crane@fennelbottom.example',
    address: '3 Mill Row, Sedge Harbor',
  },
  handover: '2027-05-10',
  payment: 'in advance',
  lots: [
    { kind: 'Nucleus colony', grade: 'A', quantity: 12, price: '168.50' },
    { kind: 'Queen', grade: 'B', quantity: 3, price: 42 },
  ],
  ...more,
})
